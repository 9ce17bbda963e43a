import type { ReactNode } from "react";
import type { FieldValues, Path, UseFormReturn } from "react-hook-form";
import type { Schemas } from "../api/client";
import { Choose, Field, LengthField } from "./fields";

export type Asked = Schemas["FormField"];

/** The name under which a field's text is kept in a form; the server's paths may hold dots. */
export const slot = (path: string) => `t.${path.replace(/[^A-Za-z0-9_]/g, "_")}`;

/** The texts of a form by the ids that the server asks for. */
export const textsOf = (fields: Asked[], t: Record<string, string | undefined>): Record<string, string> =>
  Object.fromEntries(fields.map((f) => [f.id, t[slot(f.id).slice(2)] ?? ""]));

/** Every field that core lists, as what it is. Nothing here knows an antenna or a part. */
export function AskFields<T extends FieldValues>({
  form,
  fields,
  unit,
  after,
}: {
  form: UseFormReturn<T>;
  fields: Asked[];
  unit: string;
  after?: (id: string) => ReactNode;
}) {
  return fields.map((f) => {
    const name = slot(f.id) as Path<T>;
    const label = [f.label, f.kind === "length" ? unit : f.unit].filter(Boolean).join(", ");
    const help = [f.usual && `${f.usual} if left empty`, f.help].filter(Boolean).join("; ") || " ";
    const one = (() => {
      switch (f.kind) {
        case "length":
        case "size":
          return (
            <LengthField form={form} name={name} label={label} unit={f.kind === "size" ? "mm" : unit} help={help} autoComplete="off" />
          );
        case "choice":
          return (
            <Choose
              form={form}
              name={name}
              label={f.label}
              options={[
                ["", f.usual ? `as usual: ${f.usual}` : "not said"],
                ...(f.options ?? []).map((o) => [o.id, o.name] as [string, string]),
              ]}
            />
          );
        case "words":
          return <Field form={form} name={name} label={label} help={help} autoComplete="off" />;
        case "frequencies":
          return (
            <Field
              form={form}
              name={name}
              label={label}
              help={[f.seen, f.help].filter(Boolean).join("; ") || help}
              autoComplete="off"
              className="full"
            />
          );
        default:
          return (
            <Field
              form={form}
              name={name}
              label={label}
              help={help}
              inputMode={f.kind === "count" ? "numeric" : "decimal"}
              autoComplete="off"
            />
          );
      }
    })();
    return (
      <span key={f.id} className="contents">
        {one}
        {after?.(f.id)}
      </span>
    );
  });
}
