import { Fragment } from "react";
import { type UseFormReturn, useFieldArray } from "react-hook-form";
import { type Built, type Schemas, useReference } from "../../api/client";
import { AsideFields, type Asked, AskFields } from "../../parts/AskFields";
import { Choose, Field, LengthField } from "../../parts/fields";
import { type Form, noMetal } from "./asBuilt";

type Thing = Schemas["BagThing"];
type Of = { form: UseFormReturn<Form>; base: Built; things: Thing[]; unit: string };

/** Everything that is recorded of an antenna as it stands. */
export function Parts({ fields, clock, ...of }: Of & { fields: Asked[]; clock: number }) {
  const { form, base, unit } = of;
  const reference = useReference();
  const variants = reference.data?.families.find((x) => x.id === base.family)?.variants ?? [];
  const choke = form.watch("choke");
  const winds = reference.data?.winds ?? [];
  const grounds = reference.data?.grounds ?? [];
  const v = form.watch();
  const power = v.power && `${v.power} W`;
  const hung = variants.find((x) => x.id === v.variant)?.name;
  return (
    <div className="fields">
      <AskFields form={form} fields={fields.filter((f) => !f.aside)} unit={unit} />
      <Coax {...of} />
      <Choose
        form={form}
        name="choke"
        label="Choke"
        options={[
          ["", "none"],
          ["feed", "at the feed point"],
          ["along", "along the coax"],
          ["radio", "at the radio"],
        ]}
      />
      {choke === "along" && <LengthField form={form} name="choke_distance" label={`From the feed, ${unit}`} unit={unit} />}
      <AsideFields
        form={form}
        fields={fields.filter((f) => f.aside)}
        unit={unit}
        also={[hung, grounds.find((g) => g.id === v.ground)?.name.toLowerCase(), power, v.wind, v.notes].filter((x): x is string =>
          Boolean(x),
        )}
        names={["power", "good", "minutes", "at", "notes"]}
      >
        <Choose
          form={form}
          name="ground"
          label="Ground"
          options={[["", "as planned"], ...grounds.map((g) => [g.id, g.name] as [string, string])]}
        />
        <Choose form={form} name="variant" label="Configuration" options={variants.map((x) => [x.id, x.name])} />
        {choke && <FromBag {...of} kind="choke" label="Which choke" none="not specified" />}
        {fields.some((f) => f.id === "primary_turns") && (
          <FromBag {...of} kind="transformer" label="Which transformer" none="not specified" />
        )}
        <FromBag {...of} kind="tuner" label="Tuner" none="none" />
        <Metals form={form} unit={unit} />
        <Choose form={form} name="wind" label="Wind" options={winds.map((w) => [w, w || "not noted"])} />
        <Field form={form} name="power" label="Power, W" inputMode="decimal" />
        <Field
          form={form}
          name="good"
          label="Acceptable SWR up to"
          inputMode="decimal"
          help="the tuner's limit, or your setting, if left empty"
        />
        <Field
          form={form}
          name="minutes"
          label="Set-up time, minutes"
          inputMode="numeric"
          help={clock > 0 ? `${clock} by the clock if left empty` : " "}
        />
        <Field form={form} name="at" label="When, UTC" help="now" placeholder="14:05" inputMode="numeric" />
        <Field form={form} name="notes" label="Notes" multiline className="full" />
      </AsideFields>
    </div>
  );
}

/** The coax and its length. What was recorded and is out of the bag by now can stay. */
function Coax({ form, base, things, unit }: Of) {
  const reference = useReference();
  const listed = things.filter((b) => b.part.kind === "coax");
  const gone = base.parts?.coax && !listed.some((c) => c.part.id === base.parts?.coax);
  return (
    <>
      <Choose
        form={form}
        name="coax"
        label="Coax"
        options={[
          ["", "none"],
          ...(gone ? [[`bag:${base.parts?.coax}`, `${base.coax?.own?.name ?? "coax"} (was in the bag)`] as [string, string]] : []),
          ...listed.map((c) => [`bag:${c.part.id}`, `${c.part.name} (bag)`] as [string, string]),
          ...(reference.data?.cables ?? []).map((c) => [c.id, c.name] as [string, string]),
        ]}
      />
      <LengthField form={form} name="coax_length" label={`Coax length, ${unit}`} unit={unit} />
    </>
  );
}

/** A thing of one kind from the bag; one that was recorded and is out of the bag by now can stay. */
function FromBag({ form, base, things, kind, label, none }: Of & { kind: "choke" | "transformer" | "tuner"; label: string; none: string }) {
  const reference = useReference();
  const was = base.own?.[kind];
  const listed = things.filter((b) => b.part.kind === kind);
  const takeTurns = (id: string) => {
    const texts = things.find((b) => b.part.id === id)?.texts;
    if (texts?.primary) form.setValue("t.primary_turns", texts.primary, { shouldDirty: true });
    if (texts?.secondary) form.setValue("t.secondary_turns", texts.secondary, { shouldDirty: true });
  };
  return (
    <Choose
      form={form}
      name={`${kind}_part`}
      label={label}
      help={reference.data?.kinds.find((k) => k.id === kind)?.unsaid ?? " "}
      onInput={kind === "transformer" ? (e) => takeTurns((e.target as HTMLSelectElement).value) : undefined}
      options={[
        ["", none],
        ...(was && !listed.some((b) => b.part.id === was.id) ? [[was.id, `${was.name} (was in the bag)`] as [string, string]] : []),
        ...listed.map((b) => [b.part.id, `${b.part.name} (bag)`] as [string, string]),
      ]}
    />
  );
}

/** Metal nearby: as many pieces as there are. */
function Metals({ form, unit }: { form: UseFormReturn<Form>; unit: string }) {
  const metals = useFieldArray({ control: form.control, name: "metals" });
  const kinds = useReference().data?.metals ?? [];
  const typed = form.watch("metals") ?? [];
  return (
    <>
      {metals.fields.map((x, i) => {
        const kind = kinds.find((k) => k.id === typed[i]?.kind);
        return (
          <Fragment key={x.id}>
            <Choose
              form={form}
              name={`metals.${i}.kind`}
              label={i === 0 ? "Metal nearby" : `Metal nearby, ${i + 1}`}
              options={[["", x.what || "none"], ...kinds.map((k) => [k.id, k.name] as [string, string])]}
            />
            {(kind || x.what) && <LengthField form={form} name={`metals.${i}.distance`} label={`at, ${unit}`} unit={unit} />}
            {kind && <LengthField form={form} name={`metals.${i}.size`} label={`Its ${kind.size}, ${unit}`} unit={unit} />}
          </Fragment>
        );
      })}
      {typed.at(-1)?.kind && (
        <button type="button" className="linkbtn full" onClick={() => metals.append(noMetal)}>
          Add more metal
        </button>
      )}
    </>
  );
}
