import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useForm } from "react-hook-form";
import { Link } from "react-router";
import { v7 as uuid } from "uuid";
import { call, type Schemas, Trouble, useGet, useReference } from "../../api/client";
import { send, useOutbox } from "../../api/outbox";
import { Sketch } from "../../draw/Sketch";
import { readDraft, showTrouble, useDraft, useLater } from "../../parts/draft";
import { Field } from "../../parts/fields";
import { FileButton, PreviewNotes, useImport } from "../../parts/Import";
import { Opening } from "../../parts/Opening";
import { remove, say, setVersion } from "../../parts/Undo";
import { useAntenna } from "../../parts/useAntenna";

type Contact = Schemas["Contact"];

const clock = (at: string, seconds: boolean) => new Date(at).toISOString().slice(11, seconds ? 19 : 16);

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
      if (done) say(`${done.call} logged at ${clock(done.at, false)}.`, () => setVersion("contact", contact, 0));
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

type Fix = {
  call: string;
  at: string;
  band: string;
  freq: string;
  mode: string;
  sent: string;
  received: string;
  power: string;
  locator: string;
  other_ref: string;
  own_ref: string;
  name: string;
  comment: string;
  deployment: string;
};

/** Correct one contact in place. */
function Correct({ contact: c, outing, onDone }: { contact: Contact; outing: Schemas["OutingDetail"]; onDone: () => void }) {
  const form = useForm<Fix>({
    defaultValues: {
      call: c.call,
      at: new Date(c.at)
        .toISOString()
        .slice(0, c.seconds ? 19 : 16)
        .replace("T", " "),
      band: c.band ?? "",
      freq: c.freq_hz ? String(c.freq_hz / 1e6) : "",
      mode: c.submode || (c.mode ?? ""),
      sent: c.sent ?? "",
      received: c.received ?? "",
      power: c.power_w ? String(c.power_w) : "",
      locator: c.locator ?? "",
      other_ref: c.other_ref ?? "",
      own_ref: c.own_ref ?? "",
      name: c.name ?? "",
      comment: c.comment ?? "",
      deployment: c.deployment_id ?? "",
    },
  });
  const [told, setTold] = useState("");
  const save = form.handleSubmit(async (v) => {
    const at = v.at.trim().replace(" ", "T");
    const seconds = at.length > 16;
    const when = new Date(`${at}${seconds ? "" : ":00"}Z`);
    if (Number.isNaN(when.getTime())) {
      form.setError("at", { message: `"${v.at}" is not a time; write it like 2026-05-16 14:05` });
      return;
    }
    const same = v.mode === (c.submode || c.mode);
    try {
      const done = await send<Contact>(
        "PUT",
        `/api/contacts/${c.id}`,
        {
          outing_id: c.outing_id,
          call: v.call.trim().toUpperCase(),
          at: when.toISOString(),
          seconds,
          band: v.band.trim(),
          freq_hz: v.freq ? Math.round(Number(v.freq.replace(",", ".")) * 1e6) : undefined,
          mode: same ? c.mode : v.mode.trim().toUpperCase(),
          submode: same ? c.submode : undefined,
          sent: v.sent,
          received: v.received,
          power_w: v.power ? Number(v.power.replace(",", ".")) : undefined,
          locator: v.locator.trim(),
          other_ref: v.other_ref.trim().toUpperCase(),
          own_ref: v.own_ref.trim().toUpperCase(),
          name: v.name,
          comment: v.comment,
          deployment_id: v.deployment || undefined,
        },
        `Correction of ${c.call}`,
      );
      if (done) say(`${done.call} corrected.`, () => setVersion("contact", c.id, c.version));
      onDone();
    } catch (e) {
      setTold(showTrouble(form, e, (p) => ({ freq_hz: "freq", power_w: "power" })[p] ?? p));
    }
  });
  return (
    <form onSubmit={save} className="stack" noValidate style={{ padding: "12px 0" }} aria-label={`Correct ${c.call}`}>
      <div className="fields">
        <Field form={form} name="call" label="Call" autoFocus />
        <Field form={form} name="at" label="Time, UTC" />
        <Field form={form} name="band" label="Band" />
        <Field form={form} name="freq" label="MHz" inputMode="decimal" />
        <Field form={form} name="mode" label="Mode" />
        <Field form={form} name="sent" label="Sent" />
        <Field form={form} name="received" label="Received" />
        <Field form={form} name="power" label="Power, W" inputMode="decimal" />
        <Field form={form} name="locator" label="Their locator" />
        <Field form={form} name="other_ref" label="Their reference" />
        <Field form={form} name="own_ref" label="Own reference" />
        <Field form={form} name="name" label="Name" />
        <Field form={form} name="comment" label="Comment" />
        <Field form={form} name="deployment" label="Antenna" select slotProps={{ select: { native: true }, inputLabel: { shrink: true } }}>
          <option value="">not noted</option>
          {outing.tags.map((t) => (
            <option key={t.id} value={t.id}>
              {t.letter} {t.name}
            </option>
          ))}
        </Field>
      </div>
      <div className="row">
        <Button type="submit" variant="contained">
          Keep the correction
        </Button>
        <Button variant="outlined" onClick={onDone}>
          Leave it
        </Button>
        <button
          type="button"
          className="linkbtn"
          onClick={async () => {
            await remove("contact", c.id, c.version, `${c.call} is taken out.`);
            onDone();
          }}
        >
          Take it out of the log
        </button>
        <span role="status">{told}</span>
      </div>
      {c.marks?.map((m) => (
        <p key={m} className="note small">
          {m}
        </p>
      ))}
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
  const { tag, pick } = useAntenna(outing);
  const { waiting } = useOutbox();
  const [fixing, setFixing] = useState("");
  const nextAntenna = () => {
    const i = outing.tags.findIndex((t) => t.id === tag?.id);
    const next = outing.tags[(i + 1) % outing.tags.length];
    if (next) pick(next.id);
  };
  if (!log.data) return <Opening of={[log]} />;
  const l = log.data;
  const p = l.progress;
  const lines = waiting.filter((w) => !w.refused && w.path.endsWith("/line"));
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
      <div className="scroll ruled" tabIndex={0} role="region" aria-label="Contacts, newest first">
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
            {lines.map((w) => (
              <tr key={w.key}>
                <td className="mono">{clock(w.at, false)}</td>
                <td className="mono" colSpan={9}>
                  {w.label}
                </td>
                <td className="small clay">kept here</td>
              </tr>
            ))}
            {l.rows.map((r) => {
              const c = r.contact;
              if (c.id === fixing)
                return (
                  <tr key={c.id}>
                    <td colSpan={11}>
                      <Correct contact={c} outing={outing} onDone={() => setFixing("")} />
                    </td>
                  </tr>
                );
              return (
                <tr key={c.id}>
                  <td className="mono">{clock(c.at, false)}</td>
                  <td className={`mono ${r.duplicate ? "dup" : ""}`}>
                    <b>{c.call}</b>
                    {r.duplicate && <span className="skip"> counts nothing new</span>}
                  </td>
                  <td className="mono">{c.band?.replace("m", " m")}</td>
                  <td className="hide-phone">{r.mode}</td>
                  <td className="mono">{c.sent}</td>
                  <td className="mono">{c.received}</td>
                  <td className="mono copper">{r.letter}</td>
                  <td className="mono hide-phone">{r.km ? `${r.km.toFixed(0)} @ ${r.bearing?.toFixed(0)}°` : ""}</td>
                  <td className="mono hide-phone">{c.other_ref}</td>
                  <td className="hide-phone">{[c.comment, ...(c.marks ?? [])].filter(Boolean).join("; ")}</td>
                  <td>
                    <button
                      type="button"
                      className="linkbtn small"
                      style={{ padding: 0, minHeight: 30 }}
                      onClick={() => setFixing(c.id)}
                      aria-label={`Correct ${c.call} at ${clock(c.at, false)}`}
                    >
                      correct
                    </button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
        {l.total > l.rows.length && (
          <p className="small soft">
            The newest {l.rows.length} of {l.total} are shown; the export has all.
          </p>
        )}
        {l.total === 0 && lines.length === 0 && (
          <p className="soft" style={{ paddingTop: 10 }}>
            Nobody yet. Type for example <span className="mono">Q2TAV 59 57 40m SSB</span> and press Enter; band and mode then stay.
          </p>
        )}
      </div>
      <ImportLog outing={outing} />
    </>
  );
}
