import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { v7 as uuid } from "uuid";
import { answered, type Schemas, Trouble, useClockOff, useGet, wire } from "../../api/client";
import { send } from "../../api/outbox";
import { readDraft, useDraft, useLater } from "../../parts/draft";
import { pauseKeys } from "../../parts/keysOff";
import { say, setVersion } from "../../parts/Undo";
import { Chips, type Chosen, withChosen } from "./Chips";
import { clock } from "./clock";
import { Pasted, usePaste } from "./Paste";

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
    c.name,
    c.other_ref && `at ${c.other_ref}`,
    letter && `with ${letter}`,
    c.comment,
  ];
  return parts.filter(Boolean).join("  ");
}

/** What core understands of the line as it is typed, and what of it is wrong. */
function useRead(line: string, asked: string, outing: string, antenna: string | undefined, refused?: Trouble) {
  const later = useLater(asked, 120);
  const body = { outing_id: outing, line: later, deployment_id: antenna };
  const read = useQuery<Schemas["LineRead"], Error>({
    queryKey: ["line", body],
    queryFn: () => answered(wire.POST("/api/line", { body: body })),
    enabled: later.trim() !== "",
    placeholderData: (b) => b,
    retry: false,
  });
  const now = line.trim() !== "" && later === asked ? read.data : undefined;
  const problems =
    line.trim() === "" ? [] : (refused?.fields.map((f) => ({ from: f.from ?? 0, to: f.to ?? 0, text: f.detail })) ?? now?.problems ?? []);
  // A line that is still being typed is not scolded for what is missing at its end.
  const complaints = refused ? problems : problems.filter((p) => p.to > p.from && p.to < [...line].length);
  return { read: now, complaints };
}

/** Keeps a typed line as a contact. What is typed while it is on its way stays. */
export function useLog(outing: string, antenna: string | undefined) {
  const input = useRef<HTMLInputElement>(null);
  const [chosen, choose] = useState<Chosen>({});
  const [line, put, forget] = useDraft(`line:${outing}`, "");
  const fresh = useRef(uuid());
  const lines = useRef(0);
  const [refused, setRefused] = useState<Trouble>();
  const [told, setTold] = useState("");
  // The contact whose line was brought back to be corrected.
  const [mending, setMending] = useState<Contact>();
  // The line is free at once: what was sent stands in the log, marked until it is acknowledged.
  const log = async () => {
    if (line.trim() === "") return;
    const sent = { line, chosen, mending };
    const contact = mending?.id ?? fresh.current;
    if (!mending) fresh.current = uuid();
    const body = {
      outing_id: outing,
      line: withChosen(line, chosen),
      at: new Date().toISOString(),
      deployment_id: mending ? undefined : antenna,
    };
    setRefused(undefined);
    setTold("");
    forget();
    choose({});
    setMending(undefined);
    pauseKeys();
    input.current?.focus();
    // A refused line comes back where nothing was typed or sent meanwhile; otherwise it waits above the log, to be corrected there.
    lines.current++;
    const mine = lines.current;
    const typedOn = () => lines.current !== mine || (readDraft<string>(`line:${outing}`) ?? "") !== "";
    try {
      const done = await send("put", "/api/contacts/{id}/line", { id: contact }, body, sent.line, sent.mending?.version, typedOn);
      const back = sent.mending?.version ?? 0;
      if (done)
        say(`${done.call} ${sent.mending ? "corrected" : "logged"} at ${clock(done.at, false)}.`, () =>
          setVersion("contact", contact, back, done.version),
        );
    } catch (e) {
      if (!(e instanceof Trouble)) setTold(String(e));
      if (typedOn()) return;
      put(sent.line);
      choose(sent.chosen);
      setMending(sent.mending);
      if (e instanceof Trouble) setRefused(e);
    }
  };
  const setLine = (text: string) => {
    setRefused(undefined);
    put(text);
  };
  const mend = (c: Contact | undefined) => {
    setMending(c);
    setLine(c?.line ?? "");
  };
  return { line, setLine, log, refused, told, chosen, choose, mending, mend, input };
}

export type Entry = ReturnType<typeof useLog>;

/** Whether the antenna in use sends to whom is being typed. */
function Toward({ read }: { read: Schemas["LineRead"] }) {
  const c = read.contact;
  const query = { band: c.band ?? "", km: Math.round(read.km ?? 0), bearing: Math.round(read.bearing ?? 0) };
  const asked = c.deployment_id && c.band && read.km !== undefined ? { path: { id: c.deployment_id }, query } : null;
  const toward = useGet("/api/deployments/{id}/toward", asked);
  return toward.data ? <span>{toward.data.says}</span> : null;
}

/** A clock that is off is said before a contact is stored with its time. */
function ClockOff() {
  const minutes = useClockOff();
  if (minutes === 0) return null;
  return (
    <p className="note error">
      This device's clock is {Math.abs(minutes)} minutes {minutes > 0 ? "ahead of" : "behind"} the notebook's. Contacts take their time from
      it: set it right, or type the time in the line.
    </p>
  );
}

/** The one row that takes everything from the keyboard. */
export function LogLine({
  outing,
  log: kept,
  tag,
  nextAntenna,
  entry,
}: {
  outing: Schemas["OutingDetail"];
  log: Schemas["Log"];
  tag?: Schemas["Tag"];
  nextAntenna: () => void;
  entry: Entry;
}) {
  const id = outing.outing.id;
  const { line, setLine, log, refused, told, chosen, choose, mending, mend, input } = entry;
  const paste = usePaste(id, tag?.id);
  const { read, complaints } = useRead(line, withChosen(line, chosen), id, tag?.id, refused);
  const letter = (d?: string) => outing.tags.find((t) => t.id === d)?.letter ?? "";
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
          label="Call, reports, band, mode"
          name="line"
          value={line}
          inputRef={input}
          autoFocus={window.matchMedia("(min-width: 821px)").matches}
          onChange={(e) => setLine(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === " " && line === "") {
              e.preventDefault();
              nextAntenna();
            }
            const last = kept.rows.find((r) => r.contact.line)?.contact;
            if (e.key === "ArrowUp" && line === "" && last) {
              e.preventDefault();
              mend(last);
            }
            if (e.key === "Escape" && mending) mend(undefined);
          }}
          onPaste={(e) => {
            const text = e.clipboardData.getData("text");
            if (text.trim().includes("\n")) {
              e.preventDefault();
              void paste.look(text);
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
          {mending ? "Correct it" : "Log it"}
        </Button>
      </div>
      {mending && (
        <p className="small">
          Correcting {mending.call} of {clock(mending.at, false)}; its time stays where the line says none. Esc leaves it as it was.
        </p>
      )}
      <Pasted of={paste} />
      <Chips log={kept} line={line} onLine={setLine} chosen={chosen} onChoose={choose} />
      <div id="line-read" className="marked" role="status">
        {complaints.length > 0 ? (
          <Marked line={line} problems={complaints} />
        ) : (
          read && understood(read.contact, letter(read.contact.deployment_id))
        )}
      </div>
      {complaints.map((p) => (
        <p key={p.text} className="note error">
          {p.text}
        </p>
      ))}
      {read?.worked && <p className="note">{read.worked}</p>}
      {(read?.before || read?.km !== undefined) && (
        <p className="small soft">
          {read.before} {read.km !== undefined && `${read.km.toFixed(0)} km at ${read.bearing?.toFixed(0)} degrees.`} <Toward read={read} />
        </p>
      )}
      {told && <p className="note error">{told}</p>}
      <ClockOff />
    </form>
  );
}
