import { type ReactNode, useEffect, useRef } from "react";
import { type FieldValues, get, type Path, type UseFormReturn } from "react-hook-form";
import type { Schemas } from "../api/client";
import { Choose, Field, LengthField } from "./fields";

export type Asked = Schemas["FormField"];

/** The name under which a field's text is kept in a form; the server's paths may hold dots. */
export const slot = (path: string) => `t.${path.replace(/[^A-Za-z0-9_]/g, "_")}`;

/** The texts of a form by the ids that the server asks for. */
export const textsOf = (fields: Asked[], t: Record<string, string | undefined>): Record<string, string> =>
  Object.fromEntries(fields.map((f) => [f.id, t[slot(f.id).slice(2)] ?? ""]));

/** What is asked of a field in a few words, as it is: what was typed, or what is usual. */
function inShort(f: Asked, typed: string): string {
  const chosen = f.options?.find((o) => o.id === typed)?.name ?? typed;
  const unit = f.unit && /^[\d.,]+$/.test(chosen || f.usual || "") ? ` ${f.unit}` : "";
  return `${f.label.toLowerCase()} ${chosen || f.usual}${unit}`;
}

/** The fields that mostly stay as usual, folded behind one line that says what they are. It opens where one of them is wrong. */
export function AsideFields<T extends FieldValues>({
  form,
  fields,
  unit,
  also = [],
  names = [],
  children,
}: {
  form: UseFormReturn<T>;
  fields: Asked[];
  unit: string;
  also?: string[];
  names?: string[];
  children?: ReactNode;
}) {
  const typed = (f: Asked) => String(form.watch(slot(f.id) as Path<T>) ?? "").trim();
  const wrong = [...fields.map((f) => slot(f.id)), ...names].some((name) => get(form.formState.errors, name) !== undefined);
  const fold = useRef<HTMLDetailsElement>(null);
  useEffect(() => {
    if (wrong && fold.current) fold.current.open = true;
  }, [wrong]);
  const says = fields.filter((f) => typed(f) || f.usual).map((f) => inShort(f, typed(f)));
  return (
    <details className="fold aside full" ref={fold}>
      <summary>
        <span>
          <span className="nobreak">More dimensions</span> <span className="line soft">{[...says, ...also].join(", ")}</span>
        </span>
      </summary>
      <div className="fields">
        <AskFields form={form} fields={fields} unit={unit} />
        {children}
      </div>
    </details>
  );
}

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
    const help = [f.usual && "if left empty", f.help].filter(Boolean).join("; ") || " ";
    // A computed value stands in the empty field, dashed and soft, so that it differs from a typed one.
    const shown = f.usual ? { placeholder: f.usual, className: "computed" } : {};
    const one = (() => {
      switch (f.kind) {
        case "length":
        case "size":
          return (
            <LengthField
              form={form}
              name={name}
              label={label}
              unit={f.kind === "size" ? (f.unit ?? "mm") : unit}
              help={help}
              autoComplete="off"
              {...shown}
            />
          );
        case "choice":
          return (
            <Choose
              form={form}
              name={name}
              label={f.label}
              options={[
                ["", f.usual ? `usually ${f.usual}` : "not specified"],
                ...(f.options ?? []).map((o) => [o.id, o.name] as [string, string]),
              ]}
            />
          );
        case "words":
        case "dial":
          return <Field form={form} name={name} label={label} help={help} autoComplete="off" {...shown} />;
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
              {...shown}
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
