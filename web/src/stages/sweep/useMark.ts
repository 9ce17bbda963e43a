import { useMemo, useRef, useState } from "react";
import { useForm } from "react-hook-form";
import { v7 as uuid } from "uuid";
import type { Schemas } from "../../api/client";
import { send } from "../../api/outbox";
import { slot, textsOf } from "../../parts/AskFields";
import { keepDraft, showTrouble, useFormDraft } from "../../parts/draft";
import { say, setVersion } from "../../parts/Undo";

type Form = { t: Record<string, string>; edges: Record<string, string>; name: string };
type View = Schemas["MarksView"];
type MarksSet = Schemas["MarksSet"];

const nothing: Form = { t: {}, edges: {}, name: "" };

export interface MarkAtHand {
  view: View;
  set?: MarksSet;
  row?: Schemas["MarkRow"];
  deployment: string;
  unit: "m" | "ft";
  name: string;
  onDone: () => void;
}

/** The form of one found setting on its way into the set: a new one, or one that is changed. */
export function useMark({ view, set, row, deployment, unit, name, onDone }: MarkAtHand) {
  const from = useMemo<Form>(() => {
    const t: Record<string, string> = {};
    for (const [k, text] of Object.entries(row?.texts ?? { hz: view.mhz })) t[slot(k).slice(2)] = text;
    return { t, name: set?.name ?? name, edges: { ...Object.fromEntries(view.controls.map((c) => [c.id, ""])), ...set?.edges } };
  }, [row, set, name, view.mhz, view.controls]);
  const form = useForm<Form>({ defaultValues: nothing });
  const draft = `mark:${set?.id ?? deployment}:${row?.id ?? "new"}`;
  const { forget, base } = useFormDraft(form, draft, from, set?.version);
  const fresh = useRef([uuid(), uuid()]);
  // What is told is of the mark that it was told at.
  const [told, tell] = useState({ of: draft, text: "" });
  const setTold = (text: string) => tell({ of: draft, text });
  const latest = useRef({ from, draft });
  latest.current = { from, draft };
  // A new mark is kept: its texts make room for the next one's. Those who go by the keyboard begin at its frequency, unless they
  // have gone elsewhere since. What was typed behind it while it was on its way stays.
  const next = (kept: Form["t"], at: Element | null) => {
    const now = form.getValues();
    const blank = (k: string) => latest.current.from.t[k] ?? "";
    const typed = Object.entries(now.t).filter(([k, text]) => text !== kept[k] && text !== blank(k));
    const t = Object.fromEntries([...Object.keys(now.t).map((k) => [k, blank(k)]), ...typed]);
    form.reset({ ...now, t });
    if (typed.length > 0) keepDraft(latest.current.draft, { ...now, t });
    else if (at instanceof HTMLInputElement && document.activeElement === at) document.getElementsByName("t.hz")[0]?.focus();
  };
  const save = async () => {
    setTold("");
    const f = structuredClone(form.getValues());
    const at = document.activeElement;
    const [setId, markId] = [set?.id ?? fresh.current[0], row?.id ?? fresh.current[1]] as [string, string];
    const mark = { id: markId, texts: textsOf(view.fields, f.t ?? {}) };
    const rows = (set?.card.rows ?? []).map((r) => (r.id === markId ? mark : { id: r.id, texts: r.texts }));
    if (!row) rows.push(mark);
    const place = rows.findIndex((r) => r.id === markId);
    try {
      const done = await send(
        "put",
        "/api/marks/{id}",
        { id: setId },
        { deployment_id: deployment, name: f.name, edges: f.edges, marks: rows, unit },
        `mark for ${mark.texts.hz} MHz`,
        row ? base() : (set?.version ?? 0), // a new one stands beside whatever else was changed since it was begun
      );
      forget(done?.version);
      fresh.current = [fresh.current[0] as string, uuid()];
      if (!row) next(f.t, at);
      say(
        done ? "The mark is saved." : "No connection: the mark is saved on this device.",
        set ? () => setVersion("marks", setId, set.version, set.version + 1) : () => setVersion("marks", setId, 0, 1),
      );
      onDone();
    } catch (e) {
      setTold(showTrouble(form, e, (p) => (p.startsWith(`marks.${place}.`) ? slot(p.slice(`marks.${place}.`.length)) : p)));
    }
  };
  const takeOut = async () => {
    if (!set || !row) return;
    const left = set.card.rows.filter((r) => r.id !== row.id).map((r) => ({ id: r.id, texts: r.texts }));
    try {
      const body = { deployment_id: deployment, name: set.name, edges: set.edges, marks: left, unit };
      await send("put", "/api/marks/{id}", { id: set.id }, body, `deletion of the mark for ${row.mhz} MHz`, set.version);
      forget();
      say("Mark deleted.", () => setVersion("marks", set.id, set.version, set.version + 1));
      onDone();
    } catch (e) {
      setTold(showTrouble(form, e));
    }
  };
  return { form, save, takeOut, told: told.of === draft ? told.text : "" };
}
