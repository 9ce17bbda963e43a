import Button from "@mui/material/Button";
import { useInfiniteQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { answered, type Schemas, useGet, useReference, wire } from "../../api/client";
import { thingOf, useOutbox, type Waiting } from "../../api/outbox";
import { many, metres } from "../../draw/numbers";
import { useLater } from "../../parts/draft";
import { remove } from "../../parts/Undo";
import { Correct } from "./Correct";
import { clock } from "./clock";
import { type PendingLine, readPending } from "./pending";
import "./work.css";

type Log = Schemas["Log"];

/** So many contacts are shown before older ones are asked for. */
const newest = 14;

/** The contacts of an outing, newest first, down to its first one: the newest page, and older ones as one scrolls. */
function usePages(outing: string, newest: Log) {
  const [typed, find] = useState("");
  const words = useLater(typed.trim(), 200);
  const path = { id: outing };
  const found = useGet("/api/outings/{id}/log", words === "" ? null : { path, query: { words, most: 100 } }, { keep: true });
  const first = words === "" ? newest : found.data;
  const [wanted, setWanted] = useState("");
  const from = first?.next ?? "";
  const older = useInfiniteQuery({
    queryKey: ["older", outing, words, from],
    queryFn: ({ pageParam }) =>
      answered(wire.GET("/api/outings/{id}/log", { params: { path, query: { words, most: 500, before: pageParam } } })),
    initialPageParam: from,
    getNextPageParam: (last: Log) => last.next || undefined,
    enabled: from !== "" && wanted === from,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const open = wanted === from ? older.data?.pages : undefined;
  return {
    typed,
    find,
    rows: [...(first?.rows ?? []), ...(open ?? []).flatMap((p) => p.rows)],
    more: from !== "" && (open === undefined || older.hasNextPage),
    busy: older.isFetching,
    onMore: () => (open === undefined ? setWanted(from) : void older.fetchNextPage()),
  };
}

/** Contacts and notes as they came, the newest first; notes before the oldest contact that is shown only where it is the first. */
function between(rows: Schemas["LogRow"][], notes: Schemas["SaidNote"][], whole: boolean) {
  const last = rows.at(-1)?.contact.at;
  const shown = notes.filter((n) => whole || last === undefined || n.note.at >= last);
  const at = (x: Schemas["LogRow"] | Schemas["SaidNote"]) => ("says" in x ? x.note.at : x.contact.at);
  return [...rows, ...shown].sort((a, b) => Date.parse(at(b)) - Date.parse(at(a)));
}

/** Something between contacts, in its place in the log. */
function NoteRow({ of: n }: { of: Schemas["SaidNote"] }) {
  return (
    <tr className="noted">
      <td className="mono">{clock(n.note.at, false)}</td>
      <td colSpan={10}>
        <div className="whole-line">
          <span>
            {n.letter && <span className="mono copper">{n.letter} </span>}
            {n.says}
          </span>
          <button
            type="button"
            className="linkbtn small slim"
            onClick={() => void remove("note", n.note.id, n.note.version, "Note deleted.")}
            aria-label={`Delete ${n.says}`}
          >
            take out
          </button>
        </div>
      </td>
    </tr>
  );
}

/** How many contacts wait in this browser, and how many of them were worked before: the counts above do not have them yet. */
function Kept({ lines }: { lines: PendingLine[] }) {
  if (lines.length === 0) return null;
  const again = lines.filter((p) => p.worked !== "").length;
  return (
    <p className="small clay" role="status">
      {many(lines.length, "contact")} not synced and not counted yet{again > 0 && `; ${again} worked before`}.
    </p>
  );
}

/** The log: what waits here, then what is kept; each can be corrected in place. */
export function LogTable({ outing, log: l }: { outing: Schemas["OutingDetail"]; log: Log }) {
  const { waiting, sending } = useOutbox();
  const reference = useReference();
  const [fixing, setFixing] = useState("");
  const ids = new Set(l.rows.map((r) => r.contact.id));
  const pending = [...waiting.filter((w) => !w.refused), ...sending].filter((w) => w.path.startsWith("/api/contacts/"));
  const onItsWay = new Set(sending.map((w) => w.key));
  const markOf = (w: Waiting) => (
    <span className={onItsWay.has(w.key) ? "small soft" : "small clay"}>{onItsWay.has(w.key) ? "sending" : "not synced"}</span>
  );
  // What is on its way, or waits here, until the log has it.
  const lines = readPending(
    pending.filter(
      (w) => w.path.endsWith("/line") && (w.body as { outing_id?: string }).outing_id === outing.outing.id && !ids.has(thingOf(w)),
    ),
    l,
    (reference.data?.modes ?? []).map((m) => m.mode),
  );
  const { rows: known, more: older, busy, onMore: further, typed, find } = usePages(outing.outing.id, l);
  // The newest ones first; the others when they are asked for, and from then on as one scrolls.
  const [all, setAll] = useState(false);
  const rows = all || typed !== "" ? known : known.slice(0, newest);
  const more = older || rows.length < known.length;
  const onMore = () => (all || typed !== "" ? further() : setAll(true));
  const end = useRef<HTMLDivElement>(null);
  // Older ones come by themselves as one scrolls to the end of what is shown.
  // biome-ignore lint/correctness/useExhaustiveDependencies: another page moves the end
  useEffect(() => {
    if (!end.current || !more || busy || (!all && typed === "")) return;
    const watch = new IntersectionObserver((seen) => seen.some((x) => x.isIntersecting) && onMore());
    watch.observe(end.current);
    return () => watch.disconnect();
  }, [more, busy, rows.length, all]);
  return (
    <section className="stack tight ruled" aria-label="The log">
      {(l.total > 12 || typed !== "") && (
        <input
          type="search"
          className="find mono"
          aria-label="Find in the log"
          placeholder="find a call, reference or locator"
          value={typed}
          onChange={(e) => find(e.target.value)}
        />
      )}
      <Kept lines={lines.filter((p) => !onItsWay.has(p.write.key))} />
      <div className="scroll" tabIndex={0} role="region" aria-label="Contacts, newest first">
        <table>
          <thead>
            <tr>
              <th>UTC</th>
              <th>Call</th>
              <th>Band</th>
              <th className="hide-phone">Mode</th>
              <th>Sent</th>
              <th>Rcvd</th>
              <th>With</th>
              <th className="hide-phone">km</th>
              <th className="hide-phone">Site</th>
              <th className="hide-phone">Comment</th>
              <th>
                <span className="skip">Correct</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {lines.toReversed().map((p) => (
              <tr key={thingOf(p.write)} className="pending">
                <td className="mono">{clock(p.write.at, false)}</td>
                <td className="mono">
                  <b>{p.call}</b>
                  <div className="state">
                    {markOf(p.write)} {p.worked && <span className="small soft">{p.worked}</span>}
                  </div>
                </td>
                <td className="mono">{p.band && metres(p.band)}</td>
                <td className="hide-phone">{p.mode}</td>
                <td className="mono">{p.sent}</td>
                <td className="mono">{p.received}</td>
                <td className="hide-phone mono small soft" colSpan={3}>
                  {p.write.label}
                </td>
                <td colSpan={2} />
              </tr>
            ))}
            {between(rows, typed === "" ? l.notes : [], !more).map((r) => {
              if ("says" in r) return <NoteRow key={r.note.id} of={r} />;
              const c = r.contact;
              if (c.id === fixing)
                return (
                  <tr key={c.id}>
                    <td colSpan={11}>
                      <Correct contact={c} outing={outing} onDone={() => setFixing("")} />
                    </td>
                  </tr>
                );
              const correction = pending.findLast((w) => thingOf(w) === c.id);
              return (
                <tr key={c.id}>
                  <td className="mono">{clock(c.at, false)}</td>
                  <td className={`mono ${r.duplicate ? "dup" : ""}`}>
                    <b>{c.call}</b>
                    {r.duplicate && <span className="badge">duplicate</span>}
                  </td>
                  <td className="mono">{c.band && metres(c.band)}</td>
                  <td className="hide-phone">{r.mode}</td>
                  <td className="mono">{c.sent}</td>
                  <td className="mono">{c.received}</td>
                  <td className="mono copper">{r.letter}</td>
                  <td className="mono hide-phone">{r.km ? `${r.km.toFixed(0)} @ ${r.bearing?.toFixed(0)}°` : ""}</td>
                  <td className="mono hide-phone">{c.other_ref}</td>
                  <td className="hide-phone">{[c.comment, ...(c.marks ?? [])].filter(Boolean).join("; ")}</td>
                  <td>
                    {correction && <div>{markOf(correction)}</div>}
                    <button
                      type="button"
                      className="linkbtn small slim"
                      onClick={() => setFixing(c.id)}
                      aria-label={`Edit ${c.call} at ${clock(c.at, false)}`}
                    >
                      edit
                    </button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
        {l.total === 0 && lines.length === 0 && (
          <p className="soft">
            No contacts yet. Type for example <span className="mono">Q2TAV 59 57 40m SSB</span> and press Enter; band and mode then stay.
          </p>
        )}
      </div>
      {typed.trim() !== "" && rows.length === 0 && <p className="soft">None of {l.total} holds that.</p>}
      {more && (
        <div className="row" ref={end}>
          <Button variant="outlined" disabled={busy} onClick={onMore}>
            {busy ? "Opening older ones" : "Older contacts"}
          </Button>
          <span className="small soft">
            {rows.length} of {l.total}
          </span>
        </div>
      )}
    </section>
  );
}
