import Button from "@mui/material/Button";
import { useEffect, useMemo, useRef, useState } from "react";
import { useForm } from "react-hook-form";
import { v7 as uuid } from "uuid";
import { type Schemas, useGet } from "../../api/client";
import { send } from "../../api/outbox";
import { metres } from "../../draw/numbers";
import { AskFields, slot, textsOf } from "../../parts/AskFields";
import { keepDraft, showTrouble, useDraft, useFormDraft, useLater } from "../../parts/draft";
import { Strips } from "../../parts/Figures";
import { Field } from "../../parts/fields";
import { Opening } from "../../parts/Opening";
import { say, setVersion } from "../../parts/Undo";
import "./marks.css";

type Form = { t: Record<string, string>; edges: Record<string, string>; name: string };
type View = Schemas["MarksView"];
type MarksSet = Schemas["MarksSet"];

const nothing: Form = { t: {}, edges: {}, name: "" };

const noMarks =
  "A setting that you found once is here the next time: type the frequency, what the tap, whip or dial stood at, " +
  "and the SWR. Like 14.06 MHz, tap at 43 mm, SWR 1.3.";

/** One found setting on its way into the set: a new one, or one that is changed. */
function NoteMark({
  view,
  set,
  row,
  deployment,
  unit,
  name,
  onDone,
}: {
  view: View;
  set?: MarksSet;
  row?: Schemas["MarkRow"];
  deployment: string;
  unit: "m" | "ft";
  name: string;
  onDone: () => void;
}) {
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
  const asked = view.fields;
  const own = asked.filter((f) => !f.id.startsWith("dial_"));
  const dials = asked.filter((f) => f.id.startsWith("dial_"));
  const save = async () => {
    setTold("");
    const f = structuredClone(form.getValues());
    const at = document.activeElement;
    const [setId, markId] = [set?.id ?? fresh.current[0], row?.id ?? fresh.current[1]] as [string, string];
    const mark = { id: markId, texts: textsOf(asked, f.t ?? {}) };
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
        done ? "The mark is kept." : "The link is down: the mark is kept here.",
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
      await send("put", "/api/marks/{id}", { id: set.id }, body, `the mark for ${row.mhz} MHz taken out`, set.version);
      forget();
      say("The mark is out.", () => setVersion("marks", set.id, set.version, set.version + 1));
      onDone();
    } catch (e) {
      setTold(showTrouble(form, e));
    }
  };
  const others = view.controls.some((c) => !c.id.startsWith("dial_"));
  return (
    <form
      className="stack ruled noprint"
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <h2>{row ? `The mark for ${row.mhz} MHz` : "Note what you found"}</h2>
      {!row && view.seen.length > 0 && (
        <div className="row">
          <span className="small soft">From the sweep:</span>
          {view.seen.slice(0, 6).map((x) => (
            <button
              key={x.says}
              type="button"
              className="linkbtn"
              onClick={() => {
                for (const [k, text] of Object.entries(x.texts)) form.setValue(slot(k) as "t.hz", text, { shouldDirty: true });
              }}
            >
              {x.says}
            </button>
          ))}
        </div>
      )}
      <div className="fields">
        <AskFields form={form} fields={others ? own : asked} unit={unit} />
      </div>
      {others && (
        <details className="fold">
          <summary>Dials of a tuner behind it</summary>
          <div className="fields">
            <AskFields form={form} fields={dials} unit={unit} />
          </div>
        </details>
      )}
      <details className="fold">
        <summary>Name of these marks, and from where they are measured</summary>
        <div className="fields">
          <Field form={form} name="name" label="Name" help="what stands on the coil or the whip" autoComplete="off" />
          {view.controls
            .filter((c) => !c.id.startsWith("dial_"))
            .map((c) => (
              <Field
                key={c.id}
                form={form}
                name={`edges.${c.id}`}
                label={`${c.label}: from`}
                help={`${c.edge} if left empty`}
                autoComplete="off"
              />
            ))}
        </div>
      </details>
      <div className="row">
        <Button type="submit" variant="contained">
          {row ? "Keep the change" : "Keep this mark"}
        </Button>
        {row && (
          <>
            <button type="button" className="linkbtn" onClick={onDone}>
              Leave it
            </button>
            <button type="button" className="linkbtn" onClick={() => void takeOut()}>
              Delete
            </button>
          </>
        )}
        <span role="status">{told.of === draft ? told.text : ""}</span>
      </div>
    </form>
  );
}

/** The card: every mark with what it was found with, as it is printed too. */
function Card({ set, onEdit }: { set: MarksSet; onEdit: (id: string) => void }) {
  const { card } = set;
  return (
    <section className="stack tight">
      <h2>{set.name}</h2>
      <div className="scroll" tabIndex={0} role="region" aria-label="Marks">
        <table className="markcard">
          <thead>
            <tr>
              <th>MHz</th>
              <th />
              {card.columns.map((c) => (
                <th key={c}>{c}</th>
              ))}
              <th>SWR</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {card.rows.map((r) => (
              <tr key={r.id}>
                <td className="mono">
                  <button type="button" className="linkbtn" aria-label={`Change the mark for ${r.mhz} MHz`} onClick={() => onEdit(r.id)}>
                    <b>{r.mhz}</b>
                  </button>
                </td>
                <td className="mono soft">{metres(r.band)}</td>
                {r.settings.map((x, i) => (
                  <td key={card.columns[i]} className="mono copper">
                    {x}
                  </td>
                ))}
                <td className="mono">{r.swr}</td>
                <td className="small soft">{[r.with, r.note].filter(Boolean).join(", ")}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="small soft">
        {card.columns.map((c, i) => `${c}: from ${card.edges[i]}.`).join(" ")} {card.with && `Found with ${card.with}.`} {card.missing}
      </p>
      {set.faults.map((f) => (
        <p key={f.path + f.text} className="note">
          {f.text}
        </p>
      ))}
    </section>
  );
}

/** Settings of an antenna that is set, not cut: what to set now, the marks it comes from, and how to find a new one. */
export function Marks({ deployment, unit, name }: { deployment: string; unit: "m" | "ft"; name: string }) {
  const [wanted, setWanted] = useDraft(`set-for:${deployment}`, "");
  const [at, setAt] = useDraft(`marks-of:${deployment}`, "");
  const [editing, setEditing] = useState("");
  const asked = useLater(wanted.trim(), 200);
  const view = useGet("/api/deployments/{id}/marks", { path: { id: deployment }, query: { for: asked } }, { keep: true });
  const wrong = view.error && "fields" in view.error ? (view.error as { fields: { detail: string }[] }).fields[0]?.detail : undefined;
  const kept = useRef<View>(undefined);
  useEffect(() => {
    if (view.data) kept.current = view.data;
  }, [view.data]);
  const v = view.data ?? kept.current;
  if (!v) return <Opening of={[view]} />;
  const set = v.sets.find((x) => x.id === at) ?? v.sets[0];
  const row = set?.card.rows.find((r) => r.id === editing);
  const s = set?.setting;
  return (
    <div className="stack marks">
      <div className="say noprint">
        <h1 aria-live="polite">{s?.sentence ?? "No marks yet."}</h1>
        <p>{s?.detail ?? noMarks}</p>
      </div>
      <div className="row noprint">
        <label className="setfor">
          <span>Set it for, MHz</span>
          <input
            name="set-for"
            inputMode="decimal"
            autoComplete="off"
            value={wanted}
            placeholder={v.mhz}
            onChange={(e) => setWanted(e.target.value)}
            aria-invalid={wrong !== undefined}
          />
        </label>
        {s?.values.map((x) => (
          <div className="setnow" key={x.id}>
            <span>{x.label}</span>
            <b className={s.how === "marked" ? "copper" : "tide"}>{x.text}</b>
            <span className="small">
              {x.range ?? "as marked"}, from {x.edge}
            </span>
          </div>
        ))}
      </div>
      {wrong && (
        <p className="note error noprint" role="alert">
          {wrong}
        </p>
      )}
      {s && s.warnings.length > 0 && (
        <div className="note noprint" role="status">
          <b>These marks were found otherwise.</b> They may be off: measure before you send.
          <ul className="assumed">
            {s.warnings.map((w) => (
              <li key={w}>{w}</li>
            ))}
          </ul>
        </div>
      )}
      {v.sets.length > 1 && (
        <label className="stack tight small noprint">
          Marks of
          <select className="pick" value={set?.id} onChange={(e) => setAt(e.target.value)}>
            {v.sets.map((x) => (
              <option key={x.id} value={x.id}>
                {x.name}
                {x.begun_here ? "" : " (from another outing)"}
              </option>
            ))}
          </select>
        </label>
      )}
      {set && set.card.rows.length > 0 && (
        <>
          <Card set={set} onEdit={setEditing} />
          <Strips of={set.card.strips} />
          <div className="row noprint">
            <Button variant="outlined" onClick={() => print()}>
              Print card and strips
            </Button>
          </div>
        </>
      )}
      <NoteMark view={v} set={set} row={row} deployment={deployment} unit={unit} name={name} onDone={() => setEditing("")} />
      <details className="fold noprint">
        <summary>Finding a setting by ear and meter, in order</summary>
        <ol className="guide">
          {v.guide.map((g) => (
            <li key={g}>{g}</li>
          ))}
        </ol>
      </details>
    </div>
  );
}
