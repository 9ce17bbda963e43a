import { useEffect, useState } from "react";
import { v7 as uuid } from "uuid";
import { answered, NoLink, refresh, type Schemas, Trouble, useGet, useMe, wire } from "../../api/client";
import { send } from "../../api/outbox";
import { useDraft } from "../../parts/draft";

export type RunForm = { aerials: string[]; bands: string[]; minutes: string; guard: string; mode: string; power: string; listen?: boolean };

const fresh = (outing: Schemas["OutingDetail"], power?: number): RunForm => ({
  aerials: outing.tags
    .filter((t) => t.state !== "planned")
    .slice(0, 2)
    .map((t) => t.id),
  bands: ["20m"],
  minutes: "60",
  guard: "0",
  mode: "WSPR",
  power: String(power ?? 5),
});

const number = (t: string) => (t.trim() === "" ? 0 : Number(t.replace(",", ".")));

/** The beacon runs of an outing: what is typed of the next one, the newest one as it stands, and what can be done to it. */
export function useRun(outing: Schemas["OutingDetail"]) {
  const id = outing.outing.id;
  const me = useMe();
  const runs = useGet("/api/outings/{id}/runs", { path: { id } });
  const [typed, put, forget] = useDraft<RunForm | null>(`run:${id}`, null);
  const form = typed ?? fresh(outing, me.data?.power_w);
  const set = (change: Partial<RunForm>) => put({ ...form, ...change });
  const [told, setTold] = useState("");
  const [fields, setFields] = useState<Schemas["FieldError"][]>([]);
  const state = runs.data?.[0];
  const attempt = async (what: () => Promise<string>) => {
    setTold("");
    setFields([]);
    try {
      setTold(await what());
    } catch (e) {
      if (e instanceof Trouble) setFields(e.fields);
      setTold(e instanceof Trouble ? e.whole : e instanceof NoLink ? "No connection." : String(e));
    }
  };
  const begin = () =>
    attempt(async () => {
      const wrong = (
        [
          ["minutes", form.minutes],
          ["power_w", form.listen ? "" : form.power],
          ["guard_s", form.guard],
        ] as const
      )
        .filter(([, text]) => Number.isNaN(number(text)))
        .map(([path, text]) => ({ path, detail: `"${text}" is not a number` }));
      if (wrong.length > 0) {
        setFields(wrong);
        return "The run was not started.";
      }
      const key = uuid();
      const run: Schemas["Run"] = {
        id: key,
        outing_id: id,
        begin: new Date().toISOString(),
        mode: form.mode,
        power_w: form.listen ? 0 : number(form.power),
        listen: form.listen || undefined,
        minutes: Math.round(number(form.minutes)) || 0,
        guard_s: Math.round(number(form.guard)) || 0,
        bands: form.bands,
        aerials: outing.tags
          .filter((t) => form.aerials.includes(t.id))
          .map((t) => ({ letter: t.letter, deployment_id: t.id, name: t.name })),
        seed: Math.floor(Math.random() * 1e9),
        slots: [],
        version: 0,
      };
      const done = await send("put", "/api/runs/{id}", { id: key }, run, "Beacon run", 0);
      forget();
      return done ? "" : "No connection: the run is saved on this device, synced later.";
    });
  /** What was really sent in a slot is corrected. */
  const correct = (i: number, sent: string) =>
    attempt(async () => {
      if (!state) return "";
      const slots = state.run.slots.map((s, k) => (k === i ? { ...s, sent: sent === s.letter ? "" : sent } : s));
      const done = await send("put", "/api/runs/{id}", { id: state.run.id }, { ...state.run, slots }, "A slot", state.run.version);
      return done ? "Corrected." : "No connection: saved on this device.";
    });
  const hear = () =>
    attempt(async () => {
      if (!state) return "";
      const got = await answered(wire.PUT("/api/runs/{id}/network", { params: { path: { id: state.run.id } } }));
      await refresh();
      return got.slots === 0 ? "No slot is over yet." : `${got.added} simulated reports came in.`;
    });
  return { form, set, state, begin, correct, hear, told, fields, ready: me.data !== undefined && runs.data !== undefined };
}

/** The time, each second. */
export function useSeconds() {
  const [now, set] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => set(Date.now()), 1000);
    return () => clearInterval(timer);
  }, []);
  return now;
}
