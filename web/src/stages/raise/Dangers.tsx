import type { UseFormReturn } from "react-hook-form";
import type { Schemas } from "../../api/client";
import type { Form } from "./asBuilt";

/** The dangers of this set-up, each with its figure, to be looked at and confirmed. */
export function Dangers({ form, of }: { form: UseFormReturn<Form>; of: Schemas["Checked"]["cautions"] }) {
  return (
    <>
      <fieldset className="dangers">
        <legend>Safety checks</legend>
        {of.map((c) => (
          <label className="danger" key={c.code} htmlFor={`danger-${c.code}`}>
            <input
              type="checkbox"
              id={`danger-${c.code}`}
              value={c.code}
              aria-labelledby={`title-${c.code}`}
              {...form.register("confirmed")}
            />
            <span>
              <b id={`title-${c.code}`}>{c.title}</b> {c.figure && <span className="mono clay">{c.figure}</span>}
              <span className="small soft block">{c.text}</span>
            </span>
          </label>
        ))}
      </fieldset>
      <p className="small soft">Estimates; local rules, the land's owner and the licence decide.</p>
    </>
  );
}
