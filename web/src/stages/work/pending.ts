import type { Schemas } from "../../api/client";
import { thingOf, type Waiting } from "../../api/outbox";
import { metres } from "../../draw/numbers";

/** A line that the notebook has not read yet, as far as it can be read without the notebook. */
export interface PendingLine {
  write: Waiting;
  call: string;
  band: string;
  mode: string;
  sent: string;
  received: string;
  /** Where the same call stands already, in the log or among the lines before; empty where it is new. */
  worked: string;
}

const reports = /^([1-5][1-9][1-9]?[acks]?|[+-]\d{1,2}|[1-5][nt1-9]{2}|r[1-5][1-9])$/i;
const bands = /^\d+(\.\d+)?c?m$/i;

function words(line: string, modes: string[]) {
  const all = line.replace(/;.*/s, "").trim().split(/\s+/);
  const [call = "", ...rest] = all;
  const [sent = "", received = ""] = rest.filter((w) => reports.test(w));
  return {
    call: call.toUpperCase(),
    band: rest.find((w) => bands.test(w))?.toLowerCase() ?? "",
    mode: rest.find((w) => modes.includes(w.toUpperCase()))?.toUpperCase() ?? "",
    sent,
    received,
  };
}

/** Reads the lines that wait or are on their way, the oldest first. Band and mode stay from one line to the next. */
export function readPending(writes: Waiting[], log: Schemas["Log"], modes: string[]): PendingLine[] {
  let { band = "", mode = "" } = log.stays ?? {};
  const before = log.rows.map((r) => ({ id: r.contact.id, call: r.contact.call, band: r.contact.band ?? "", mode: r.mode ?? "" }));
  return writes.map((write) => {
    const said = words((write.body as { line?: string }).line ?? write.label, modes);
    band = said.band || band;
    mode = said.mode || mode;
    const known = before.filter((b) => b.call === said.call);
    const same = known.find((b) => b.band === band && b.mode === mode) ?? known[0];
    const where = same && [same.band && metres(same.band), same.mode].filter(Boolean).join(" ");
    before.push({ id: thingOf(write), call: said.call, band, mode });
    return { write, ...said, band, mode, worked: same ? `worked before${where ? `, ${where}` : ""}` : "" };
  });
}
