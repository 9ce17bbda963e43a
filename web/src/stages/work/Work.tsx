import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link } from "react-router";
import { v7 as uuid } from "uuid";
import { call, type Schemas, Trouble, useGet, useReference } from "../../api/client";
import { send } from "../../api/outbox";
import { Sketch } from "../../draw/Sketch";
import { readDraft, useDraft, useLater } from "../../parts/draft";
import { FileButton, PreviewNotes, useImport } from "../../parts/Import";
import { Opening } from "../../parts/Opening";
import { say, setVersion } from "../../parts/Undo";
import { useAntennaInUse } from "../../parts/useAntenna";
import { clock, LogTable } from "./LogTable";

type Contact = Schemas["Contact"];

/** The typed line with what is not understood underlined at its place. */
function Marked({ line, problems }: { line: string; problems: { from: number; to: number }[] }) {
  const chars = [...line];
  const out: React.ReactNode[] = [];
  let at = 0;
  for (const p of [...problems].sort((a, b) => a.from - b.from)) {
    if (p.to <= p.from || p.from < at) continue;
    out.push(chars.slice(at, p.from).join(""), <u key={p.from}>{chars.slice(p.from, p.to).join("")}</u>);
    at = p.to;
  }
  out.push(chars.slice(at).join(""));
  return out;
}

function understood(c: Contact, letter: string) {
  const parts = [
    clock(c.at, c.seconds),
    c.call,
    c.band,
    c.freq_hz ? (c.freq_hz / 1e6).toFixed(3) : "",
    c.submode || c.mode,
    c.sent && `sent ${c.sent}`,
    c.received && `got ${c.received}`,
    c.power_w && `${c.power_w} W`,
    c.locator,
    c.other_ref && `at ${c.other_ref}`,
    letter && `with ${letter}`,
    c.comment,
  ];
  return parts.filter(Boolean).join("  ");
}

function LogLine({ outing, tag, nextAntenna }: { outing: Schemas["OutingDetail"]; tag?: Schemas["Tag"]; nextAntenna: () => void }) {
  const id = outing.outing.id;
  const [line, setLine, forget] = useDraft(`line:${id}`, "");
  const fresh = useRef(uuid());
  const [refused, setRefused] = useState<Trouble>();
  const [told, setTold] = useState("");
  const input = useRef<HTMLInputElement>(null);
  const later = useLater(line, 120);
  const body = { outing_id: id, line: later, deployment_id: tag?.id };
  const read = useQuery<Schemas["LineRead"], Error>({
    queryKey: ["line", body],
    queryFn: () => call<Schemas["LineRead"]>("POST", "/api/line", body),
    enabled: later.trim() !== "",
    placeholderData: (b) => b,
    retry: false,
  });
  const letter = (d?: string) => outing.tags.find((t) => t.id === d)?.letter ?? "";
  const log = async () => {
    if (line.trim() === "") return;
    setRefused(undefined);
    setTold("");
    const contact = fresh.current;
    fresh.current = uuid();
    try {
      const done = await send<Contact>(
        "PUT",
        `/api/contacts/${contact}/line`,
        { outing_id: id, line, at: new Date().toISOString(), deployment_id: tag?.id },
        line,
      );
      // What was typed meanwhile stays.
      if (readDraft<string>(`line:${id}`) === line) forget();
      if (done) say(`${done.call} logged at ${clock(done.at, false)}.`, () => setVersion("contact", contact, 0, done.version));
    } catch (e) {
      if (e instanceof Trouble) setRefused(e);
      else setTold(String(e));
    }
    input.current?.focus();
  };
  const problems =
    line.trim() === ""
      ? []
      : (refused?.fields.map((f) => ({ from: f.from ?? 0, to: f.to ?? 0, text: f.detail })) ??
        (later === line ? (read.data?.problems ?? []) : []));
  // A line that is still being typed is not scolded for what is missing at its end.
  const complaints = refused ? problems : problems.filter((p) => p.to > p.from && p.to < [...line].length);
  return (
    <form
      className="logline stack tight"
      onSubmit={(e) => {
        e.preventDefault();
        void log();
      }}
    >
      <div className="typeline">
        <TextField
          label="Call, reports, and what changed. Enter logs it."
          name="line"
          value={line}
          inputRef={input}
          autoFocus={window.matchMedia("(min-width: 821px)").matches}
          onChange={(e) => {
            setRefused(undefined);
            setLine(e.target.value);
          }}
          onKeyDown={(e) => {
            if (e.key === " " && line === "") {
              e.preventDefault();
              nextAntenna();
            }
          }}
          placeholder="Q2TAV 59 57"
          autoComplete="off"
          error={complaints.length > 0}
          slotProps={{
            htmlInput: {
              autoCapitalize: "characters",
              spellCheck: false,
              enterKeyHint: "done",
              maxLength: 1000,
              "aria-describedby": "line-read",
            },
          }}
        />
        <Button type="submit" variant="contained">
          Log it
        </Button>
      </div>
      <div id="line-read" className="marked" role="status">
        {complaints.length > 0 ? (
          <Marked line={line} problems={complaints} />
        ) : line.trim() !== "" && read.data && later === line ? (
          understood(read.data.contact, letter(read.data.contact.deployment_id))
        ) : (
          ""
        )}
      </div>
      {complaints.map((p) => (
        <p key={p.text} className="note error">
          {p.text}
        </p>
      ))}
      {line.trim() !== "" && read.data?.worked && later === line && <p className="note">{read.data.worked}</p>}
      {told && <p className="note error">{told}</p>}
    </form>
  );
}

function ImportLog({ outing }: { outing: Schemas["OutingDetail"] }) {
  const id = outing.outing.id;
  const file = useImport(id);
  const fresh = useRef(uuid());
  const [told, setTold] = useState("");
  const p = file.preview;
  const added = p?.counts.added ?? 0;
  const keep = async () => {
    const batch = fresh.current;
    try {
      const done = await send<Schemas["Imported"]>(
        "PUT",
        `/api/imports/${batch}`,
        { ...file.input, outing_id: id },
        `Import of ${p?.name}`,
      );
      fresh.current = uuid();
      file.close();
      say(done ? `${done.added} contacts added.` : "The link is down: the import is kept here.", () =>
        send("DELETE", `/api/imports/${batch}`, undefined, "undo of an import"),
      );
    } catch (e) {
      setTold(e instanceof Trouble ? e.whole : String(e));
    }
  };
  return (
    <div className="stack">
      <div className="row">
        <FileButton label="Import a log" name="log-file" accept=".adi,.adif,.adx,text/*" onFile={(f) => void file.open(f)} />
        <a href={`/api/outings/${id}/log.adi`} download={`${outing.outing.name}-${outing.outing.date}.adi`}>
          Export as ADIF
        </a>
        {file.busy && <span role="status">Reading…</span>}
      </div>
      {(file.trouble || told) && (
        <div className="note error" role="alert">
          {file.trouble || told}
        </div>
      )}
      {p?.sweep && (
        <div className="note error" role="alert">
          This is a sweep, not a log. Attach it in Sweep.
        </div>
      )}
      {p?.records && (
        <section className="stack ruled" aria-label="Preview of the log">
          <h2>
            {added} of {p.counts.records} contacts would be added
          </h2>
          <p>
            {p.kind}, {p.encoding}. Fields that are not known here are carried along. Nothing is stored yet.
          </p>
          <PreviewNotes of={p} choose={(c, v) => void file.choose(c, v)} />
          <div className="scroll">
            <table>
              <tbody>
                {p.records.slice(0, 8).map((r) => (
                  <tr key={r.number} className={r.taken && !r.known ? "" : "dup"}>
                    <td className="mono small">{r.line}</td>
                    <td className="mono">{r.contact.call || "no call"}</td>
                    <td className="mono">{r.taken ? r.contact.at.slice(0, 16).replace("T", " ") : ""}</td>
                    <td className="mono">{r.contact.band}</td>
                    <td>{r.contact.submode || r.contact.mode}</td>
                    <td className="small">{r.known ? "known" : r.taken ? "" : "not taken"}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            {p.counts.records > 8 && <p className="small soft">and {p.counts.records - 8} more</p>}
          </div>
          <div className="row">
            <Button variant="contained" disabled={added === 0} onClick={() => void keep()}>
              Add {added} contacts
            </Button>
            <Button variant="outlined" onClick={file.close}>
              Not now
            </Button>
          </div>
        </section>
      )}
    </div>
  );
}

export default function Work({ outing }: { outing: Schemas["OutingDetail"] }) {
  const id = outing.outing.id;
  const log = useGet<Schemas["Log"]>(`/api/outings/${id}/log`);
  const reference = useReference();
  const { tag, pick } = useAntennaInUse(outing);
  const nextAntenna = () => {
    const i = outing.tags.findIndex((t) => t.id === tag?.id);
    const next = outing.tags[(i + 1) % outing.tags.length];
    if (next) pick(next.id);
  };
  if (!log.data) return <Opening of={[log]} />;
  const l = log.data;
  const p = l.progress;
  return (
    <>
      <div className="wide">
        <div className="stack">
          <h1>{p.sentence}</h1>
          {p.scheme.minimum > 0 && (
            <div className="bar" role="img" aria-label={`${p.counted} of ${p.scheme.minimum}`}>
              <i style={{ width: `${Math.min(100, (100 * p.counted) / p.scheme.minimum)}%` }} />
            </div>
          )}
          <LogLine outing={outing} tag={tag} nextAntenna={nextAntenna} />
        </div>
        <div className="stack">
          {tag ? (
            <button
              type="button"
              className="using"
              onClick={nextAntenna}
              aria-label={`Antenna in use: ${tag.letter}, ${tag.name}. Next antenna`}
            >
              <span className="letter">{tag.letter}</span>
              <Sketch family={tag.family} variant={tag.variant} />
              <span>
                <b style={{ fontSize: 19 }}>{tag.name}</b>
                <br />
                <span className="small soft">in use. Tap for the next, or space on an empty line</span>
              </span>
            </button>
          ) : (
            <p className="note">
              No antenna recorded: contacts cannot be compared later. <Link to={`/o/${id}/cut`}>Plan one</Link>
            </p>
          )}
          <dl className="facts">
            {l.bands.map((b) => (
              <div key={b.band}>
                <dt>{b.band.replace("m", " m")}</dt>
                <dd>{b.contacts}</dd>
              </div>
            ))}
            {p.per_hour > 0 && (
              <div>
                <dt>last half hour</dt>
                <dd>
                  {p.per_hour.toFixed(0)}
                  <small>an hour</small>
                </dd>
              </div>
            )}
            {p.duplicates > 0 && (
              <div>
                <dt>count nothing new</dt>
                <dd>{p.duplicates}</dd>
              </div>
            )}
          </dl>
          <details className="fold">
            <summary>How to type a line</summary>
            <table>
              <tbody>
                {reference.data?.grammar.map(([form = "", what]) => (
                  <tr key={form}>
                    <td className="mono">{form}</td>
                    <td>{what}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </details>
        </div>
      </div>
      <LogTable outing={outing} log={l} />
      <ImportLog outing={outing} />
    </>
  );
}
