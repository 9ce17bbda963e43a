import type { UseFormReturn } from "react-hook-form";
import { type Schemas, useReference } from "../../api/client";
import { metres } from "../../draw/numbers";
import type { Form } from "./plan";

const parts = (text: string) => text.split(/[\s;/]+/).filter(Boolean);

/** The bands, to be pressed instead of typed: each adds its name to what the plan is for, or takes it out again. */
export function Bands({
  form,
  field,
  several,
  faults,
}: {
  form: UseFormReturn<Form>;
  field?: Schemas["FormField"];
  several: boolean;
  faults: Schemas["Fault"][];
}) {
  const bands = useReference().data?.bands ?? [];
  const text = form.watch("t.for") ?? "";
  const typed = parts(text);
  const put = (v: string) => form.setValue("t.for", v, { shouldDirty: true, shouldTouch: true });
  // In which band a frequency lies is the server's to say; while it is on its way a band's own name is known.
  const said = field?.bands?.length === typed.length ? field.bands : [];
  const meant = (b: Schemas["Band"]) => (t: string, i: number) => t.toLowerCase() === b.name || said[i] === b.name;
  const press = (b: Schemas["Band"]) => {
    const on = typed.some(meant(b));
    const others = several ? typed.filter((t, i) => !meant(b)(t, i)) : [];
    // One band always stays.
    if (!on) put([...others, b.name].join(" "));
    else if (others.length > 0) put(others.join(" "));
  };
  const offer = faults.find((f) => f.path === "for" && f.offer)?.offer;
  return (
    <div className="full stack tight">
      {offer && (
        <div>
          <button type="button" className="linkbtn" onClick={() => put(offer)}>
            Take {parts(offer).map(metres).join(" and ")}
          </button>
        </div>
      )}
      <fieldset className="bandrow" aria-label="Bands">
        {bands.map((b) => (
          <button type="button" key={b.name} className="chip" aria-pressed={typed.some(meant(b))} onClick={() => press(b)}>
            {metres(b.name)}
          </button>
        ))}
      </fieldset>
    </div>
  );
}
