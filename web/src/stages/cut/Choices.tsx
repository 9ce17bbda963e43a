import { useEffect, useRef } from "react";
import type { UseFormReturn } from "react-hook-form";
import { type Schemas, useGet, useReference } from "../../api/client";
import { Sketch } from "../../draw/Sketch";
import { AsideFields, AskFields } from "../../parts/AskFields";
import { Choose, Picks } from "../../parts/fields";
import { Bands } from "./Bands";
import type { Form } from "./plan";

/** The kinds of antennas, drawn as they hang. */
export function Families({ form, onPick }: { form: UseFormReturn<Form>; onPick: () => void }) {
  const families = useReference().data?.families ?? [];
  const groups = [...new Set(families.map((f) => f.group))];
  const pick = (id: string) => {
    form.setValue("family", id, { shouldDirty: true });
    form.setValue("variant", families.find((f) => f.id === id)?.variants[0]?.id ?? "flat", { shouldDirty: true });
    onPick();
  };
  const strip = useRef<HTMLDivElement>(null);
  const chosen = form.watch("family");
  // biome-ignore lint/correctness/useExhaustiveDependencies: where the families are one strip, the chosen one is in sight
  useEffect(() => {
    const box = strip.current;
    const now = box?.querySelector<HTMLElement>("label:has(input:checked)");
    if (box && now) box.scrollLeft = now.offsetLeft - box.offsetLeft - box.clientWidth / 2 + now.clientWidth / 2;
  }, [chosen]);
  return (
    <div className="families" ref={strip}>
      {groups.map((group) => (
        <Picks
          key={group}
          legend={group}
          name="family"
          value={chosen}
          onChange={pick}
          options={families
            .filter((f) => f.group === group)
            .map((f) => ({
              id: f.id,
              label: (
                <span className="kind">
                  <Sketch family={f.id} variant={f.variants[0]?.id ?? ""} />
                  {f.short}
                </span>
              ),
            }))}
        />
      ))}
    </div>
  );
}

/** What is asked of the plan: its fields, how it hangs, the wire, and what is taken from the bag. */
export function Questions({
  form,
  fields,
  faults,
  unit,
}: {
  form: UseFormReturn<Form>;
  fields: Schemas["FormField"][];
  faults: Schemas["Fault"][];
  unit: string;
}) {
  const reference = useReference();
  const bag = useGet("/api/bag");
  const family = reference.data?.families.find((f) => f.id === form.watch("family"));
  const shown = fields.filter((f) => !f.aside);
  const things = (kind: string): [string, string][] =>
    (bag.data?.things ?? []).filter((b) => b.part.kind === kind).map((b) => [b.part.id, b.part.name]);
  const used = (reference.data?.kinds ?? []).filter(
    (k) => things(k.id).length > 0 && (k.carried || fields.some((f) => k.fills?.includes(f.id))),
  );
  const fromBag = (k: { id: string }) =>
    things(k.id)
      .filter(([id]) => id === form.watch(`parts.${k.id}`))
      .map(([, name]) => name);
  const hanging = (
    <>
      <Bands form={form} field={fields.find((f) => f.id === "for")} several={family?.multi ?? false} faults={faults} />
      {(family?.variants.length ?? 0) > 1 && (
        <div className="full">
          <Picks
            legend="Configuration"
            name="variant"
            value={form.watch("variant")}
            onChange={(id) => form.setValue("variant", id, { shouldDirty: true, shouldTouch: true })}
            options={(family?.variants ?? []).map((x) => ({ id: x.id, label: x.name }))}
          />
        </div>
      )}
      <Choose
        form={form}
        name="wire"
        label="Wire"
        className="full"
        options={[
          ...things("wire").map(([i, n]) => [`bag:${i}`, `${n} (bag)`] as [string, string]),
          ...(reference.data?.wires ?? []).map((w) => [w.id, w.name] as [string, string]),
        ]}
      />
    </>
  );
  return (
    <>
      <h2>{family?.name}</h2>
      <div className="fields">
        <AskFields form={form} fields={shown} unit={unit} after={(field) => field === "for" && hanging} />
        <AsideFields form={form} fields={fields.filter((f) => f.aside)} unit={unit} also={used.flatMap((k) => fromBag(k))}>
          {used.map((k) => (
            <Choose key={k.id} form={form} name={`parts.${k.id}`} label={`${k.name} (bag)`} options={[["", "none"], ...things(k.id)]} />
          ))}
        </AsideFields>
      </div>
    </>
  );
}
