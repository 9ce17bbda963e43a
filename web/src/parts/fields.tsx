import TextField, { type TextFieldProps } from "@mui/material/TextField";
import type { ReactNode } from "react";
import { type FieldValues, get, type Path, type UseFormReturn } from "react-hook-form";
import { type Length, useGet } from "../api/client";
import { useLater } from "./draft";
import "./fields.css";

type Props<T extends FieldValues> = { form: UseFormReturn<T>; name: Path<T>; label: string; help?: ReactNode } & Omit<
  TextFieldProps,
  "name" | "form"
>;

export function Field<T extends FieldValues>({ form, name, label, help, ...rest }: Props<T>) {
  const error = get(form.formState.errors, name) as { message?: string } | undefined;
  return (
    <TextField
      {...rest}
      id={name}
      label={label}
      error={error !== undefined}
      helperText={error?.message ?? help}
      {...form.register(name, { onChange: () => form.clearErrors(name) })}
    />
  );
}

/** One of several. What it shows is what the form holds, also before its choices are there, and when it is none of them. */
export function Choose<T extends FieldValues>({ options, ...rest }: Props<T> & { options: [string, string][] }) {
  const value = String(rest.form.watch(rest.name) ?? "");
  return (
    <Field {...rest} value={value} select slotProps={{ select: { native: true }, inputLabel: { shrink: true } }}>
      {!options.some(([id]) => id === value) && <option value={value}>{value || "not specified"}</option>}
      {options.map(([id, text]) => (
        <option key={id} value={id}>
          {text}
        </option>
      ))}
    </Field>
  );
}

/** A typed length as it is understood, in one's own units; nothing where it stands there so already. */
function inOwn(typed: string, [metric = "", imperial = ""]: string[], unit: string): string {
  const feet = unit === "ft" || unit === "in";
  const own = feet ? imperial : metric;
  const bare = (t: string) => t.replace(/[.,]?0+(?=\s|$)/, "").replace(",", ".");
  return own === typed || (!feet && (/^[\d.,]+$/.test(typed) || bare(own) === bare(typed))) ? "" : own;
}

/** A length as people type it, with what is understood of it below. */
export function LengthField<T extends FieldValues>({
  unit,
  kind = "length",
  help,
  ...rest
}: Props<T> & { unit: string; kind?: "length" | "frequency" | "place" }) {
  const typed = String(rest.form.watch(rest.name) ?? "").trim();
  const text = useLater(typed, 250);
  const seen = useGet("/api/convert", text === "" ? null : { query: { kind, unit, text } });
  const trouble = seen.error && "fields" in seen.error ? (seen.error as { fields: { detail: string }[] }).fields[0]?.detail : undefined;
  const [prints, notes] = seen.data && text === typed ? [seen.data.prints ?? [], seen.data.notes ?? []] : [[], []];
  const read = [...(kind === "length" ? [inOwn(typed, prints, unit)] : prints), ...notes].filter(Boolean).join("  ·  ");
  return (
    <Field
      {...rest}
      // Who thinks in metres types numbers; feet and inches and places need letters and marks.
      inputMode={kind === "length" && unit !== "ft" && unit !== "in" ? "decimal" : "text"}
      help={typed === "" ? help : trouble ? <span className="clay">{trouble}</span> : <span className="mono">{read || "\u00a0"}</span>}
    />
  );
}

/** The text that stands in a form for a length: as typed when that has a unit, otherwise printed. */
export function lengthText(l: Length | undefined, imperial: boolean): string {
  if (!l || (!l.m && !l.typed)) return "";
  if (l.typed && /[a-z'"′″]/i.test(l.typed)) return l.typed;
  return (imperial ? l.imperial : l.metric) ?? "";
}

/** The length that a form's text stands for; the server reads it. */
export const typedLength = (text: string | undefined, unit: string): Length | undefined =>
  text === undefined || text.trim() === "" ? undefined : { typed: text.trim(), unit: unit as "m" };

export function Picks({
  legend,
  name,
  value,
  onChange,
  options,
}: {
  legend: string;
  name: string;
  value: string;
  onChange: (v: string) => void;
  options: { id: string; label: ReactNode }[];
}) {
  return (
    <fieldset className="choice">
      <legend>{legend}</legend>
      {options.map((o) => (
        <label key={o.id}>
          <input type="radio" name={name} value={o.id} checked={value === o.id} onChange={() => onChange(o.id)} />
          {o.label}
        </label>
      ))}
    </fieldset>
  );
}
