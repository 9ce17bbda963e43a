import Button from "@mui/material/Button";
import { useEffect, useRef, useState } from "react";
import { type Schemas, useGet } from "../../api/client";
import { metres } from "../../draw/numbers";
import { AskFields, slot } from "../../parts/AskFields";
import { useDraft, useLater } from "../../parts/draft";
import { Strips } from "../../parts/Figures";
import { Field } from "../../parts/fields";
import { Opening } from "../../parts/Opening";
import { type MarkAtHand, useMark } from "./useMark";
import "./marks.css";

type View = Schemas["MarksView"];
type MarksSet = Schemas["MarksSet"];

const noMarks =
  "Save the settings that you find and use them next time: type the frequency, the position of tap, whip or dial, " +
  "and the SWR. Like 14.06 MHz, tap at 43 mm, SWR 1.3.";

/** One found setting on its way into the set. */
function NoteMark(at: MarkAtHand) {
  const { view, row, unit, onDone } = at;
  const { form, save, takeOut, told } = useMark(at);
  const asked = view.fields;
  const own = asked.filter((f) => !f.id.startsWith("dial_"));
  const dials = asked.filter((f) => f.id.startsWith("dial_"));
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
      <h2>{row ? `The mark for ${row.mhz} MHz` : "Add a mark"}</h2>
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
        <summary>Name and reference points of these marks</summary>
        <div className="fields">
          <Field form={form} name="name" label="Name" help="the text on the coil or whip" autoComplete="off" />
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
          Save mark
        </Button>
        {row && (
          <>
            <button type="button" className="linkbtn" onClick={onDone}>
              Cancel
            </button>
            <button type="button" className="linkbtn" onClick={() => void takeOut()}>
              Delete
            </button>
          </>
        )}
        <span role="status">{told}</span>
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
          <span>Frequency to set, MHz</span>
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
              {x.range ?? "as saved"}, from {x.edge}
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
          <b>These marks come from another set-up.</b> They may be off: measure before you send.
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
