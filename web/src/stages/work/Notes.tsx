import Button from "@mui/material/Button";
import { useEffect, useRef, useState } from "react";
import { v7 as uuid } from "uuid";
import { type Schemas, Trouble } from "../../api/client";
import { send } from "../../api/outbox";
import { say, setVersion } from "../../parts/Undo";

type Kind = Schemas["NoteKind"];

/** What has just been opened is typed into. */
const focused = (e: HTMLInputElement | null) => e?.focus();

/** What is seen between contacts, a key each: nothing heard, noise, battery, and what else is a result. */
export function Notes({
  outing,
  log,
  tag,
  band,
}: {
  outing: Schemas["OutingDetail"];
  log: Schemas["Log"];
  tag?: Schemas["Tag"];
  band: string;
}) {
  const [open, setOpen] = useState<Kind>();
  const [text, setText] = useState("");
  const [told, setTold] = useState("");
  // A pair may be sent in an order that is drawn, so that who listens does not know which antenna is which.
  const [blind, setBlind] = useState(false);
  const [swapped, setSwapped] = useState(false);
  // The next one that is up: a planned one was heard by nobody.
  const up = outing.tags.filter((t) => t.state !== "planned");
  const other = up[(up.findIndex((t) => t.id === tag?.id) + 1) % Math.max(1, up.length)];
  const [first, second] = open?.id === "pair" && blind && swapped ? [other, tag] : [tag, other];
  const keep = async (kind: Kind, typed: string) => {
    setTold("");
    const id = uuid();
    const note: Schemas["OnAirNote"] = {
      id,
      outing_id: outing.outing.id,
      deployment_id: first?.id,
      other_id: second?.id,
      blind: (kind.id === "pair" && blind) || undefined,
      at: new Date().toISOString(),
      kind: kind.id,
      band: kind.banded ? band : undefined,
      text: typed,
      version: 0,
    };
    try {
      const done = await send("put", "/api/notes/{id}", { id }, note, kind.name, 0);
      // Another one may have been opened meanwhile.
      setOpen((now) => (now?.id === kind.id ? undefined : now));
      if (kind.asks) setText("");
      setSwapped(Math.random() < 0.5);
      if (done) say(`Noted: ${kind.name}.`, () => setVersion("note", id, 0, done.version));
    } catch (e) {
      setOpen(kind);
      setTold(e instanceof Trouble ? e.whole : String(e));
    }
  };
  const press = (kind: Kind) => {
    if (!kind.asks) void keep(kind, "");
    else {
      setTold("");
      setOpen(open?.id === kind.id ? undefined : kind);
    }
  };
  const latest = useRef(press);
  latest.current = press;
  const kinds = log.note_kinds;
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      const kind = e.altKey && !e.ctrlKey && !e.metaKey ? kinds.find((k) => k.key === e.key.toLowerCase()) : undefined;
      if (!kind) return;
      e.preventDefault();
      latest.current(kind);
    };
    addEventListener("keydown", key);
    return () => removeEventListener("keydown", key);
  }, [kinds]);
  return (
    <section className="stack tight" aria-label="Between contacts">
      <div className="bandrow strip">
        {kinds.map((k) => (
          <button
            type="button"
            key={k.id}
            className="chip"
            aria-keyshortcuts={`Alt+${k.key}`}
            aria-expanded={k.asks ? open?.id === k.id : undefined}
            title={`Alt and ${k.key}`}
            onClick={() => press(k)}
          >
            {k.name}
          </button>
        ))}
      </div>
      {open && (
        <form
          className="stack tight"
          onSubmit={(e) => {
            e.preventDefault();
            void keep(open, text);
          }}
        >
          <div className="typeline">
            <label className="notefield">
              <span className="small">
                {open.name}
                {open.id === "pair" && first && second ? `: send with ${first.letter}, then ${second.letter}` : ""}
                {open.asks ? `: ${open.asks}` : ""}
              </span>
              <input
                key={open.id}
                ref={focused}
                className="find mono"
                value={text}
                placeholder={open.like}
                onChange={(e) => setText(e.target.value)}
                onKeyDown={(e) => e.key === "Escape" && setOpen(undefined)}
              />
            </label>
            <Button type="submit" variant="contained">
              Note it
            </Button>
          </div>
          {open.id === "pair" && (
            <label className="row small">
              <input
                type="checkbox"
                checked={blind}
                onChange={(e) => {
                  setBlind(e.target.checked);
                  setSwapped(Math.random() < 0.5);
                }}
              />
              order drawn, the other station is not told
            </label>
          )}
        </form>
      )}
      {told && (
        <p className="note error small" role="alert">
          {told}
        </p>
      )}
    </section>
  );
}
