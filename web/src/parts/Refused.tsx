import Button from "@mui/material/Button";
import { useState } from "react";
import { useReference } from "../api/client";
import { again, forget, putBack, thingOf, useOutbox, type Waiting } from "../api/outbox";
import { dropDraftsOf } from "./draft";
import { say } from "./Undo";
import "./Refused.css";

type Leaf = string | number | boolean | null | undefined | unknown[];

/** The single values of a document by their paths; a list is one value. */
function leaves(of: unknown, path = "", out: Record<string, Leaf> = {}): Record<string, Leaf> {
  if (of !== null && typeof of === "object" && !Array.isArray(of))
    for (const [k, v] of Object.entries(of)) leaves(v, path ? `${path}.${k}` : k, out);
  else out[path] = of as Leaf;
  return out;
}

function put(of: Record<string, unknown>, path: string, v: unknown) {
  const words = path.split(".");
  let at = of;
  for (const w of words.slice(0, -1)) {
    at[w] = { ...((at[w] as object) ?? {}) };
    at = at[w] as Record<string, unknown>;
  }
  at[words.at(-1) as string] = v;
}

/** What an entry is called; one of a plan goes by its own field. */
const called = (path: string, names: Record<string, string> = {}) =>
  names[path] ?? path.replace(/^plan\.texts\.|^texts\.|^plan\./, "").replace(/[._]/g, " ");
const shown = (v: Leaf) => (v === undefined || v === null || v === "" ? "nothing" : Array.isArray(v) ? `${v.length} entries` : String(v));
const nothing = (v: Leaf) => v === undefined || v === null || v === "" || (Array.isArray(v) && v.length === 0);

/** What differs between a write and what is there, among what the write speaks of. */
function differing(mine: unknown, there: unknown, was: unknown) {
  const [a, b, before] = [leaves(mine), leaves(there), was === undefined ? undefined : leaves(was)];
  return Object.keys(a)
    .filter((k) => k !== "unit" && k !== "version" && JSON.stringify(a[k]) !== JSON.stringify(b[k]) && !(nothing(a[k]) && nothing(b[k])))
    .map((k) => ({
      path: k,
      mine: a[k],
      there: b[k],
      // What only the other changed is theirs from the start.
      theirs: before !== undefined && (JSON.stringify(a[k]) === JSON.stringify(before[k]) || (nothing(a[k]) && nothing(before[k]))),
    }));
}

/** Take a refused write out, with the way back. */
async function leave(w: Waiting, text: string) {
  await forget(w);
  say(text, () => putBack(w));
}

/** A write that was made while something else was kept: both are shown, and one chooses, line by line. */
function Both({ of: w }: { of: Waiting }) {
  const conflict = w.conflict as NonNullable<Waiting["conflict"]>;
  const reference = useReference();
  const rows = differing(w.body, conflict.now, conflict.was);
  const [theirs, setTheirs] = useState<Record<string, boolean>>(() => Object.fromEntries(rows.map((r) => [r.path, r.theirs])));
  const keep = async (all: boolean) => {
    const body = { ...(w.body as Record<string, unknown>) };
    if (!all) for (const r of rows) if (theirs[r.path]) put(body, r.path, r.there);
    await again(w, body, conflict.version);
    dropDraftsOf(thingOf(w)); // by now what is there has been read anew
  };
  return (
    <section className="note error stack tight" aria-label={`${w.label}: choose what to keep`}>
      <p>
        <b>{w.label}</b>:{" "}
        {conflict.deleted
          ? "it was deleted on another screen meanwhile. Nothing was overwritten."
          : "something else was saved meanwhile, on another screen. Nothing was overwritten: choose what to keep."}
      </p>
      {!conflict.deleted && rows.length <= 16 && (
        <table className="both">
          <thead>
            <tr>
              <th />
              <th>Yours</th>
              <th>Saved now</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={r.path}>
                <td>{called(r.path, reference.data?.names)}</td>
                {[false, true].map((other) => (
                  <td key={String(other)}>
                    <label className="tall">
                      <input
                        type="radio"
                        name={`${w.key}:${r.path}`}
                        checked={(theirs[r.path] ?? false) === other}
                        onChange={() => setTheirs({ ...theirs, [r.path]: other })}
                      />{" "}
                      <span className="mono">{shown(other ? r.there : r.mine)}</span>
                    </label>
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <div className="row">
        <Button variant="contained" onClick={() => void keep(false)}>
          {conflict.deleted ? "Restore it with my version" : rows.length <= 16 ? "Save the selection" : "Keep mine"}
        </Button>
        <Button
          variant="outlined"
          onClick={() => {
            dropDraftsOf(thingOf(w));
            void leave(w, `${w.label}: your version was discarded.`);
          }}
        >
          {conflict.deleted ? "Leave it deleted" : "Keep the saved version"}
        </Button>
      </div>
    </section>
  );
}

/** A write that was refused: what it is, why, and its line to correct where it is one. */
function One({ of: w }: { of: Waiting }) {
  const body = (w.body ?? {}) as Record<string, unknown>;
  const [line, setLine] = useState(typeof body.line === "string" ? body.line : "");
  return (
    <div className="note error stack tight" role="alert">
      <p>
        <b>{w.label}</b> was saved on this device and could not be stored: {w.refused}
      </p>
      {typeof body.line === "string" && (
        <input
          className="mono corrected"
          aria-label={`Correct the line ${w.label}`}
          value={line}
          onChange={(e) => setLine(e.target.value)}
        />
      )}
      <div className="row">
        <Button variant="contained" onClick={() => void again(w, typeof body.line === "string" ? { ...body, line } : w.body)}>
          {typeof body.line === "string" ? "Log it now" : "Try again"}
        </Button>
        <button type="button" className="linkbtn" onClick={() => void leave(w, `${w.label} is deleted.`)}>
          Delete
        </button>
      </div>
    </div>
  );
}

/** Writes that were refused: they are shown until they are dealt with. */
export function Refused() {
  const { waiting } = useOutbox();
  return waiting.filter((w) => w.refused).map((w) => (w.conflict ? <Both key={w.key} of={w} /> : <One key={w.key} of={w} />));
}
