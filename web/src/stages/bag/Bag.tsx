import Button from "@mui/material/Button";
import { useEffect, useMemo, useRef, useState } from "react";
import { useForm } from "react-hook-form";
import { Link } from "react-router";
import { v7 as uuid } from "uuid";
import { answered, type Schemas, Trouble, useGet, useMe, useReference, wire } from "../../api/client";
import { send } from "../../api/outbox";
import { many } from "../../draw/numbers";
import { AskFields, slot, textsOf } from "../../parts/AskFields";
import { Below } from "../../parts/Below";
import { showTrouble, useFormDraft } from "../../parts/draft";
import { Earlier } from "../../parts/Earlier";
import { Figures } from "../../parts/Figures";
import { Fold } from "../../parts/Fold";
import { Choose, Field } from "../../parts/fields";
import { base64, FileButton } from "../../parts/Import";
import { Opening } from "../../parts/Opening";
import { Progress } from "../../parts/Progress";
import { remove } from "../../parts/Undo";
import { useComputed } from "../../parts/useComputed";
import "./bag.css";

type Form = { kind: string; name: string; t: Record<string, string> };
type Thing = Schemas["BagThing"];

function toForm(b: Thing | undefined): Form {
  const t: Record<string, string> = {};
  for (const [k, text] of Object.entries(b?.texts ?? {})) t[slot(k).slice(2)] = text;
  return { kind: b?.part.kind ?? "wire", name: b?.part.name ?? "", t };
}

/** What the sweeps of a wire say of its velocity factor, to be taken or left. */
function LearnFactor({ part, onTake }: { part: string; onTake: (factor: string) => void }) {
  const [asked, setAsked] = useState(false);
  const c = useComputed("learn", "velocity", asked ? { part_id: part } : undefined);
  const l = c.result;
  return (
    <div className="stack tight">
      {!asked && (
        <div>
          <Button variant="outlined" onClick={() => setAsked(true)}>
            What do its sweeps show?
          </Button>
        </div>
      )}
      <Progress of={c} what="computing its antennas" />
      {l && (
        <>
          <p role="status">Velocity factor {l.sentence}</p>
          <p className="small soft">{l.from.map((x) => `${x.name} ${x.factor.toFixed(3)}`).join(", ")}</p>
          <div>
            <Button variant="outlined" onClick={() => onTake(l.factor.toFixed(3))}>
              Take {l.factor.toFixed(3)} for this wire
            </Button>
          </div>
        </>
      )}
    </div>
  );
}

/** One thing: its kind's fields, what computing makes of it, and where it has been. */
function ThingForm({ thing, kinds, unit, onDone }: { thing?: Thing; kinds: Schemas["Kind"][]; unit: "m" | "ft"; onDone: () => void }) {
  const from = useMemo(() => toForm(thing), [thing]);
  const form = useForm<Form>({ defaultValues: from });
  const { forget, base } = useFormDraft(form, `part:${thing?.part.id ?? "new"}`, from, thing?.part.version);
  const fresh = useRef(uuid());
  const [told, setTold] = useState("");
  const v = form.watch();
  const kind = kinds.find((k) => k.id === v.kind);
  const save = async () => {
    setTold("");
    const f = form.getValues();
    try {
      const done = await send(
        "put",
        "/api/parts/{id}",
        { id: thing?.part.id ?? fresh.current },
        { kind: f.kind, name: f.name, texts: textsOf(kind?.fields ?? [], f.t ?? {}), unit },
        f.name || "a thing of the bag",
        base(),
      );
      forget(done?.part.version);
      fresh.current = uuid();
      if (done) onDone();
      else setTold("No connection: saved on this device, synced later.");
    } catch (e) {
      setTold(showTrouble(form, e, (p) => (p === "name" || p === "kind" ? p : slot(p))));
    }
  };
  return (
    <form
      className="stack ruled"
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <h2>{thing ? thing.part.name : "New item"}</h2>
      <div className="fields">
        {!thing && <Choose form={form} name="kind" label="What is it" options={kinds.map((k) => [k.id, k.name])} />}
        <Field form={form} name="name" label="Name" help="a name you will recognise" autoComplete="off" />
        <AskFields form={form} fields={kind?.fields ?? []} unit={unit} />
      </div>
      <div className="row">
        <Button type="submit" variant="contained">
          Save item
        </Button>
        <button type="button" className="linkbtn" onClick={onDone}>
          Close
        </button>
        {thing && (
          <button
            type="button"
            className="linkbtn"
            onClick={async () => {
              await remove("part", thing.part.id, thing.part.version, `${thing.part.name} is deleted.`);
              onDone();
            }}
          >
            Delete
          </button>
        )}
        <span role="status">{told}</span>
      </div>
      {thing && thing.about.length > 0 && <Figures of={thing.about} />}
      {thing && <Earlier kind="part" id={thing.part.id} onBack={onDone} />}
      {thing?.part.kind === "wire" && thing.uses.some((u) => u.built) && (
        <LearnFactor
          part={thing.part.id}
          onTake={(factor) => {
            form.setValue(slot("factor") as `t.${string}`, factor, { shouldDirty: true });
            void save();
          }}
        />
      )}
      {thing && (
        <p className="small">
          {thing.uses.length === 0 ? (
            <span className="soft">Not used yet. Choose it in Cut or Raise to start its history.</span>
          ) : (
            <>
              Used in{" "}
              {thing.uses.map((u, i) => (
                <span key={u.deployment_id}>
                  {i > 0 && ", "}
                  <Link to={`/o/${u.outing_id}/raise`}>{u.deployment}</Link> at {u.outing}, <span className="mono">{u.date}</span>
                  {u.built ? "" : " (planned)"}
                </span>
              ))}
              .
            </>
          )}
        </p>
      )}
    </form>
  );
}

/** A CSV file on its way in: what it holds by line, before anything is written. */
function BagFile({ unit }: { unit: "m" | "ft" }) {
  const [content, setContent] = useState("");
  const [preview, setPreview] = useState<Schemas["BagPreview"]>();
  const [told, setTold] = useState("");
  const tell = (e: unknown) => setTold(e instanceof Trouble ? e.whole : String((e as Error).message));
  const open = async (file: File) => {
    setTold("");
    setPreview(undefined);
    try {
      const text = await base64(file);
      setPreview(await answered(wire.POST("/api/bag/preview", { body: { content: text, unit } })));
      setContent(text);
    } catch (e) {
      tell(e);
    }
  };
  const take = async () => {
    try {
      const done = await send("post", "/api/bag/import", {}, { content, unit }, "Import into the bag");
      setPreview(undefined);
      setTold(
        done
          ? `${done.added} added, ${done.known} already in the bag, ${done.refused} skipped.`
          : "No connection: the import is saved on this device, synced later.",
      );
    } catch (e) {
      tell(e);
    }
  };
  const rows = preview?.rows ?? [];
  const fresh = rows.filter((r) => r.taken && (!r.known || r.changes)).length;
  return (
    <div className="stack tight">
      <div className="row">
        <FileButton label="Import items from CSV" name="bag" accept=".csv,text/csv,text/plain" onFile={open} />
        <a className="linkbtn" href="/api/bag.csv" download="bag.csv">
          Export bag as CSV
        </a>
        <span role="status">{told}</span>
      </div>
      {preview && (
        <section className="stack tight ruled" aria-label="File contents">
          <h2>
            {many(rows.length, "item")} in the file, {fresh} to add
          </h2>
          <div className="scroll low" tabIndex={0} role="region" aria-label="Lines of the file">
            <table className="dense">
              <tbody>
                {rows.map((r) => (
                  <tr key={r.line} className={r.taken ? "" : "soft"}>
                    <td className="mono">{r.line}</td>
                    <td>{r.part.kind}</td>
                    <td>{r.part.name}</td>
                    <td>{!r.taken ? "skipped" : r.known ? (r.changes ? "changes an item" : "already in the bag") : "new"}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          {preview.notes.map((n, i) => (
            <p key={i} className={`note small ${n.severity === "error" ? "error" : ""}`}>
              <span className="mono">
                line {n.line}
                {n.field ? `, ${n.field}` : ""}
              </span>{" "}
              {n.text}
            </p>
          ))}
          <div className="row">
            <Button variant="contained" disabled={fresh === 0} onClick={take}>
              Add {many(fresh, "item")}
            </Button>
            <button type="button" className="linkbtn" onClick={() => setPreview(undefined)}>
              Cancel
            </button>
          </div>
        </section>
      )}
    </div>
  );
}

export default function Bag() {
  const me = useMe();
  const reference = useReference();
  const bag = useGet("/api/bag");
  const [at, setAt] = useState<string>();
  const top = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (at) top.current?.querySelector("input,select,textarea")?.scrollIntoView({ block: "center" });
  }, [at]);
  if (!me.data || !reference.data || !bag.data) return <Opening of={[me, reference, bag]} />;
  const unit = me.data.imperial ? "ft" : "m";
  const { things, sentence } = bag.data;
  const thing = things.find((b) => b.part.id === at);
  const kinds = reference.data.kinds.filter((k) => things.some((b) => b.part.kind === k.id));
  return (
    <>
      <div className="say">
        <h1>{sentence}</h1>
        <p>
          Plans use lengths, turns, heights and losses from the bag. Each item keeps a history of where it was used.
          {things.length === 0 && " An example: wire, name “thin green”, conductor 0.5 mm, jacket 1.1 mm, 60 m left."}
        </p>
      </div>
      <Below>
        <div className="row">
          <Button variant="contained" onClick={() => setAt("new")}>
            Add item
          </Button>
          <BagFile unit={unit} />
        </div>
        <div ref={top}>
          {at === "new" && <ThingForm key="new" kinds={reference.data.kinds} unit={unit} onDone={() => setAt(undefined)} />}
          {thing && (
            <ThingForm
              key={`${thing.part.id} ${thing.part.version}`}
              thing={thing}
              kinds={reference.data.kinds}
              unit={unit}
              onDone={() => setAt(undefined)}
            />
          )}
        </div>
        {kinds.map((k) => (
          <Fold head key={k.id} name={k.name} says={many(things.filter((b) => b.part.kind === k.id).length, "item")}>
            <ul className="things">
              {things
                .filter((b) => b.part.kind === k.id)
                .map((b) => (
                  <li key={b.part.id}>
                    <button type="button" className="thing" aria-pressed={b.part.id === at} onClick={() => setAt(b.part.id)}>
                      <b>{b.part.name}</b>
                      <span className="small">
                        {b.about.slice(0, 3).map((f) => (
                          <span key={f.label} className="mono">
                            {f.label} {f.value}
                          </span>
                        ))}
                      </span>
                      <span className="small soft">
                        {b.grams > 0 ? `${Math.round(b.grams)} g, ` : ""}
                        {b.uses.length === 0 ? "not used yet" : `used in ${many(b.uses.length, "set-up")}`}
                      </span>
                    </button>
                  </li>
                ))}
            </ul>
          </Fold>
        ))}
      </Below>
    </>
  );
}
