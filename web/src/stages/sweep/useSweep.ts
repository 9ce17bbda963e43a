import { useEffect, useRef, useState } from "react";
import { v7 as uuid } from "uuid";
import { type Schemas, Trouble, useDeployment, useGet } from "../../api/client";
import { send } from "../../api/outbox";
import { useDraft } from "../../parts/draft";
import { useComputed } from "../../parts/useComputed";
import type { Explanation } from "./Why";

/** What is looked at of an antenna's sweeps: the band and the revision, and what they say. */
export function useView(tag?: Schemas["Tag"]) {
  const detail = useDeployment(tag?.id);
  const [band, setBand] = useDraft<string>(`band:${tag?.id}`, "");
  const [revision, setRevision] = useState("");
  const view = useGet("/api/deployments/{id}/reading", tag ? { path: { id: tag.id }, query: { band, revision } } : null, {
    keep: true,
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: another antenna begins at its newest revision
  useEffect(() => setRevision(""), [tag?.id]);
  const [cause, setCause] = useState<Explanation>();
  // biome-ignore lint/correctness/useExhaustiveDependencies: an explanation is of one sweep
  useEffect(() => setCause(undefined), [tag?.id, view.data?.revision_id, view.data?.band]);
  const revisions = detail.data?.revisions ?? [];
  const last = revisions.at(-1);
  const current = revisions.find((x) => x.id === (view.data?.revision_id || revision)) ?? last;
  return { detail, view, revisions, last, current, setBand, setRevision, cause, setCause };
}

/** What the solver says beside a sweep: the curve that it computes for the antenna as recorded, and what to change. One advice
 * stands for all bands. */
export function useSolver(outing: string, { view, detail, last }: ReturnType<typeof useView>, wanted?: number) {
  const shown = view.data?.band;
  const seen = view.data?.revision_id || last?.id;
  const sweeps = detail.data?.revisions.reduce((n, r) => n + r.sweeps.length, 0);
  const computed = useComputed(
    "sweep",
    "forecast",
    seen && shown ? { revision_id: seen, band: shown, outing_id: outing } : undefined,
    true,
    sweeps,
  );
  // The last answer may still be of the band before.
  const foretold = computed.result?.forecast?.bands.find((b) => b.name === shown);
  const swept = view.data?.before ?? (detail.data?.revisions.find((r) => r.id === seen)?.sweeps.length ? seen : undefined);
  const trims = view.data?.trimmed ?? false;
  const question = swept && trims ? { revision_id: swept, wanted_hz: wanted ? [wanted] : undefined } : undefined;
  const advice = useComputed("trim", "trim", question, false, sweeps);
  const advised = advice.current ? advice.result : undefined;
  const ways = advised?.instead ? [advised, advised.instead] : [];
  const [way, setWay] = useState("");
  const trim = ways.find((x) => x.way === way) ?? advised;
  return {
    computed,
    foretold,
    shown: foretold && computed.result?.shown,
    advice,
    ways,
    setWay,
    trim,
    asked: Boolean(swept && trims),
  };
}

/** Keeps what was advised as the next revision. */
export function useAccept(tag: Schemas["Tag"] | undefined, seq: number, onDone: () => void) {
  const fresh = useRef(uuid());
  const [told, setTold] = useState("");
  const accept = async (proposal: { reason: string; built: Schemas["Built"] }) => {
    if (!tag) return;
    onDone();
    try {
      const done = await send(
        "put",
        "/api/revisions/{id}",
        { id: fresh.current },
        { deployment_id: tag.id, reason: proposal.reason, built: proposal.built },
        `r${seq} of ${tag.name}`,
      );
      fresh.current = uuid();
      setTold(done ? `Saved as revision ${seq}. Sweep again and attach it.` : "No connection: saved on this device, synced later.");
    } catch (e) {
      setTold(e instanceof Trouble ? e.whole : String(e));
    }
  };
  return { accept, told };
}
