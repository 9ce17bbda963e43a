import { useEffect, useRef, useState } from "react";
import { v7 as uuid } from "uuid";
import { call, NoLink, type Schemas, Trouble } from "../api/client";

/** A tab of its own: computations of one tab take each other's place, not those of another. */
const tab = uuid();

export interface Computing {
  result?: Schemas["Computation"];
  // Whether the result is that of the present question, in full.
  current: boolean;
  running: boolean;
  // It has not begun: others are computed first.
  waits: boolean;
  step: number;
  of: number;
  trouble: string;
  stop: () => void;
  again: () => void;
}

const drop = (id: string) => void fetch(`/api/computations/${id}`, { method: "DELETE", keepalive: true }).catch(() => undefined);

/** Runs a computation again whenever its question changes: first coarse where that is asked for, then in full,
 * with progress. The last answer stays until there is a better one. */
export function useComputed(slot: string, question: Omit<Schemas["ComputeInput"], "id" | "slot"> | undefined, coarse = false): Computing {
  const asked = question && JSON.stringify(question);
  const [found, setFound] = useState<{ answer: Schemas["Computation"]; of: string }>();
  const [state, setState] = useState({ running: false, waits: false, step: 0, of: 0, trouble: "" });
  const [turn, setTurn] = useState(0);
  const now = useRef("");
  const halted = useRef(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: turn asks for the same question again
  useEffect(() => {
    if (!asked) return;
    let alive = true;
    halted.current = false;
    const idle = (trouble = "") => alive && setState({ running: false, waits: false, step: 0, of: 0, trouble });
    const run = async (rough: boolean) => {
      const id = uuid();
      now.current = id;
      const body = { ...JSON.parse(asked), id, slot: `${slot}:${tab}`, coarse: rough, wait_ms: rough ? 2000 : 250 };
      let c = await call<Schemas["Computation"]>("POST", "/api/computations", body);
      for (let lost = 0; alive && !halted.current; ) {
        if (c.state === "running") {
          setState({ running: true, waits: c.waits ?? false, step: c.step, of: c.of, trouble: "" });
          c = await call<Schemas["Computation"]>("GET", `/api/computations/${id}?wait_ms=400`);
        } else if (c.state === "stopped" && now.current === id && lost++ < 2) {
          // Nobody here stopped it: the page slept, or the program began anew. It is asked again.
          c = await call<Schemas["Computation"]>("POST", "/api/computations", body);
        } else break;
      }
      if (!alive) return drop(id);
      if (c.state === "done") setFound({ answer: c, of: rough ? "" : asked });
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
        idle(e instanceof NoLink ? "The link is down: not computed." : e instanceof Trouble ? e.whole : (e as Error).message);
      }
    })();
    return () => {
      alive = false;
      drop(now.current);
    };
  }, [asked, slot, coarse, turn]);
  return {
    result: asked ? found?.answer : undefined,
    current: found !== undefined && found.of === asked,
    ...state,
    stop: () => {
      halted.current = true;
      drop(now.current);
      setState({ running: false, waits: false, step: 0, of: 0, trouble: "Stopped." });
    },
    again: () => setTurn((t) => t + 1),
  };
}
