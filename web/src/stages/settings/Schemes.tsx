import Button from "@mui/material/Button";
import { useState } from "react";
import { useForm } from "react-hook-form";
import { v7 as uuid } from "uuid";
import { type Schemas, useGet } from "../../api/client";
import { send } from "../../api/outbox";
import { showTrouble } from "../../parts/draft";
import { Choose, Field } from "../../parts/fields";
import { remove, say, setVersion } from "../../parts/Undo";

type Scheme = Schemas["Scheme"];
type Form = { name: string; minimum: string; unique: string; per_day: boolean; sites: boolean; references: boolean; operators: boolean };

const blank = (): Scheme => ({
  id: `own-${uuid()}`.slice(0, 40),
  name: "",
  minimum: 10,
  unique: "mode",
  per_day: true,
  sites: true,
  references: true,
  operators: false,
  version: 0,
});

const flags: [keyof Form & ("per_day" | "sites" | "references" | "operators"), string][] = [
  ["per_day", "the minimum is for one UTC day"],
  ["sites", "a station counts again from another site of its own"],
  ["references", "each of several references of yours needs the minimum"],
  ["operators", "each operator at your station needs the minimum"],
];

/** The rules by which a visit counts: each can be changed, added to and deleted. */
export function Schemes() {
  const all = useGet("/api/schemes");
  const [open, setOpen] = useState<Scheme>();
  return (
    <section className="stack tight" aria-label="Activation rules">
      <ul className="plain stack tight">
        {all.data?.map(({ scheme: s, rule }) => (
          <li key={s.id} className="stack tight">
            <span className="rule">
              <span>
                <b>{s.name}</b>
                <span className="block small soft">
                  {s.minimum > 0 ? `at least ${s.minimum}; ` : ""}
                  {rule}
                </span>
              </span>
              <Button
                variant="outlined"
                aria-label={`Change ${s.name}`}
                aria-expanded={open?.id === s.id}
                onClick={() => setOpen(open?.id === s.id ? undefined : s)}
              >
                Change
              </Button>
            </span>
            {open?.id === s.id && <Edit key={s.version} of={s} onDone={() => setOpen(undefined)} />}
          </li>
        ))}
      </ul>
      {open && !all.data?.some(({ scheme: s }) => s.id === open.id) ? (
        <Edit key={open.id} of={open} onDone={() => setOpen(undefined)} />
      ) : (
        <div>
          <Button variant="outlined" onClick={() => setOpen(blank())}>
            Add a rule
          </Button>
        </div>
      )}
    </section>
  );
}

function Edit({ of: s, onDone }: { of: Scheme; onDone: () => void }) {
  const form = useForm<Form>({ defaultValues: { ...s, minimum: String(s.minimum) } });
  const [told, setTold] = useState("");
  const save = form.handleSubmit(async (v) => {
    const minimum = Number(v.minimum.trim() || "0");
    if (!Number.isInteger(minimum)) return form.setError("minimum", { message: `${v.minimum} is not a number of contacts` });
    const body = { ...s, ...v, unique: v.unique, minimum };
    try {
      const done = await send("put", "/api/schemes/{id}", { id: s.id }, body, `Rule ${v.name}`, s.version);
      if (done) say(`${done.name} saved; contacts are counted again.`, () => setVersion("scheme", s.id, s.version, done.version));
      onDone();
    } catch (e) {
      setTold(showTrouble(form, e));
    }
  });
  return (
    <form className="stack tight" noValidate aria-label={s.name || "New rule"} onSubmit={save}>
      <div className="fields">
        <Field form={form} name="name" label="Rule" className="full" autoFocus help="like 10 contacts in a UTC day" />
        <Field form={form} name="minimum" label="Minimum" inputMode="numeric" help="0 for none" />
        <Choose
          form={form}
          name="unique"
          label="A station counts again"
          options={[
            ["call", "never"],
            ["band", "on another band"],
            ["mode", "on another band or mode"],
          ]}
        />
      </div>
      {flags.map(([name, text]) => (
        <label key={name} className="row">
          <input type="checkbox" {...form.register(name)} /> {text}
        </label>
      ))}
      <div className="row">
        <Button type="submit" variant="contained">
          Save rule
        </Button>
        <Button variant="outlined" onClick={onDone}>
          Cancel
        </Button>
        {s.version > 0 && (
          <Button
            variant="outlined"
            onClick={() => {
              void remove("scheme", s.id, s.version, `${s.name} deleted.`);
              onDone();
            }}
          >
            Delete rule
          </Button>
        )}
      </div>
      {told && (
        <div className="note error" role="alert">
          {told}
        </div>
      )}
    </form>
  );
}
