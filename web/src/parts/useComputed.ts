import { useEffect, useRef, useState } from "react";
import { v7 as uuid } from "uuid";
import { type Answer, answered, type Body, NoLink, type Schemas, Trouble, type With, wire } from "../api/client";
import { useSteady } from "./draft";

/** A tab of its own: computations of one tab take each other's place, not those of another. */
const tab = uuid();

/** The questions that are computed. */
type Question = Extract<With<"post">, `/api/compute/${string}`> extends `/api/compute/${infer Q}` ? Q : never;
type At<Q extends Question> = `/api/compute/${Q}`;
type Result<Q extends Question> = Answer<At<Q>, "post"> extends { result?: infer T } ? NonNullable<T> : never;
/** What a question holds beside who asks it. */
type Rest<T> = T extends unknown ? Omit<T, "id" | "slot" | "wait_ms" | "coarse"> : never;
type Asked<Q extends Question> = Rest<Body<At<Q>, "post">>;
/** A computation, and its result when it is done. */
type Run<T> = Schemas["Computation"] & { result?: T };

export interface Computing<T = unknown> {
  result?: T;
  // Whether the result is that of the present question, in full.
  current: boolean;
  running: boolean;
  // It has not begun: others are computed first.
  waits: boolean;
  step: number;
  of: number;
  trouble: string;
  // What of the trouble belongs to one field of the question.
  fields?: { path: string; detail: string }[];
  stop: () => void;
  again: () => void;
}

const drop = (id: string) => void fetch(`/api/computations/${id}`, { method: "DELETE", keepalive: true }).catch(() => undefined);

/** Runs a computation again whenever its question changes: first coarse where that is asked for, then in full,
 * with progress. The last answer stays until there is a better one. since counts what the question hangs on beside itself:
 * with another number it is asked anew. */
export function useComputed<Q extends Question>(
  slot: string,
  kind: Q,
  question: Asked<Q> | undefined,
  coarse = false,
  since = 0,
): Computing<Result<Q>> {
  const asked = useSteady(question && { question, since });
  const [found, setFound] = useState<{ answer: Result<Q>; of?: { question: Asked<Q>; since: number } }>();
  const [state, setState] = useState<Pick<Computing, "running" | "waits" | "step" | "of" | "trouble" | "fields">>({
    running: false,
    waits: false,
    step: 0,
    of: 0,
    trouble: "",
  });
  const [turn, setTurn] = useState(0);
  const now = useRef("");
  const halted = useRef(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: turn asks for the same question again
  useEffect(() => {
    if (!asked) return;
    let alive = true;
    halted.current = false;
    const idle = (trouble = "", fields?: Computing["fields"]) =>
      alive && setState({ running: false, waits: false, step: 0, of: 0, trouble, fields });
    const run = async (rough: boolean) => {
      const id = uuid();
      now.current = id;
      const body = {
        ...asked.question,
        id,
        slot: `${slot}:${tab}`,
        wait_ms: rough ? 2000 : 250,
        ...(rough && { coarse: true }),
      };
      const ask = () => answered(wire.POST(`/api/compute/${kind}` as never, { body } as never)) as Promise<Run<Result<Q>>>;
      let c = await ask();
      for (let lost = 0; alive && !halted.current && c.state !== "done"; ) {
        if (c.state === "running") {
          setState({ running: true, waits: c.waits ?? false, step: c.step, of: c.of, trouble: "" });
          const at = await answered(wire.GET("/api/computations/{id}", { params: { path: { id }, query: { wait_ms: 400 } } }));
          // What is done is had by asking again.
          c = at.state === "done" ? await ask() : { ...c, ...at };
        } else if (c.state === "stopped" && now.current === id && lost++ < 2) {
          // Nobody here stopped it: the page slept, or the program began anew. It is asked again.
          c = await ask();
        } else break;
      }
      if (!alive) return drop(id);
      if (c.state === "done") setFound({ answer: c.result as Result<Q>, of: rough ? undefined : asked });
      if (c.state === "failed") throw new Error(c.error ?? "it cannot be computed");
    };
    void (async () => {
      try {
        setState((s) => ({ ...s, running: true, step: 0, of: 0, trouble: "" }));
        if (coarse) await run(true);
        if (alive && !halted.current) await run(false);
        if (!halted.current) idle();
      } catch (e) {
        if (halted.current) return;
        if (alive) setFound(undefined);
        if (e instanceof Trouble) idle(e.whole, e.fields);
        else idle(e instanceof NoLink ? "No connection: not computed." : (e as Error).message);
      }
    })();
    return () => {
      alive = false;
      drop(now.current);
    };
  }, [asked, slot, kind, coarse, turn]);
  return {
    result: asked ? found?.answer : undefined,
    current: asked !== undefined && found?.of === asked,
    ...state,
    stop: () => {
      halted.current = true;
      drop(now.current);
      setState({ running: false, waits: false, step: 0, of: 0, trouble: "Stopped." });
    },
    again: () => setTurn((t) => t + 1),
  };
}
