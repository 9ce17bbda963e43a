import { useEffect, useRef, useState } from "react";
import { v7 as uuid } from "uuid";
import { type Schemas, Trouble, useMe } from "../../api/client";
import { send } from "../../api/outbox";
import { useDraft } from "../../parts/draft";
import { useComputed } from "../../parts/useComputed";

export type Where = "feed" | "radio";

/** Stores a sweep of a revision. */
const store = (id: string, revision: string, file: Schemas["FileInput"], where: Where, label: string) =>
  send("put", "/api/sweeps/{id}", { id }, { revision_id: revision, file, where, taken_at: new Date().toISOString() }, label, 0);

export const trouble = (e: unknown) => (e instanceof Trouble ? e.whole : String(e));

/** The analyser: one sweep that is looked at first, or several that are kept as they come. */
export function useAnalyser(revision: Schemas["Revision"], band: string, where: Where, onOne: (file: Schemas["FileInput"]) => void) {
  const me = useMe();
  const [device, setDevice] = useDraft("device", "simulated");
  const network = device === "network" && me.data?.analyser ? "network" : "simulated";
  const [asking, setAsking] = useState<{ take: number; left: number; keep: boolean; wide: boolean }>();
  const [told, setTold] = useState("");
  const [done, setDone] = useState(false);
  const tries = useRef(0);
  const question = asking && { revision_id: revision.id, band, device: network as "network", where, take: asking.take, wide: asking.wide };
  const measured = useComputed("measure", "sweep", question);
  const handled = useRef<Schemas["FileInput"]>(undefined);
  const got = asking && measured.current && !measured.running ? measured.result : undefined;
  // biome-ignore lint/correctness/useExhaustiveDependencies: each answer is handled once
  useEffect(() => {
    if (!got || !asking || handled.current === got) return;
    handled.current = got;
    if (!asking.keep) {
      setAsking(undefined);
      onOne(got);
      return;
    }
    store(uuid(), revision.id, got, where, got.name).then(
      () => {
        const more = asking.left > 1;
        setAsking(more ? { ...asking, take: (asking.take + 1) % 100, left: asking.left - 1 } : undefined);
        setDone(!more);
      },
      (e) => {
        setTold(trouble(e));
        setAsking(undefined);
      },
    );
  }, [got]);
  useEffect(() => {
    if (measured.trouble) setAsking(undefined);
  }, [measured.trouble]);
  const sweep = (left: number, wide = false) => {
    setTold("");
    setDone(false);
    setAsking({ take: (revision.sweeps.length + tries.current++) % 100, left, keep: left > 1, wide });
  };
  return { address: me.data?.analyser, network, setDevice, asking, measured, told, done, sweep };
}

/** Keeps what was looked at with its revision. */
export function useKeepSweep(revision: string, where: Where) {
  const fresh = useRef(uuid());
  const [told, setTold] = useState("");
  const keep = async (file: Schemas["FileInput"], label: string) => {
    const id = fresh.current;
    setTold("");
    try {
      const done = await store(id, revision, file, where, label);
      fresh.current = uuid();
      return { id, done: done !== undefined };
    } catch (e) {
      setTold(trouble(e));
    }
  };
  return { keep, told };
}
