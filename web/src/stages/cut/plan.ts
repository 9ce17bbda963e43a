import type { Schemas } from "../../api/client";
import { slot } from "../../parts/AskFields";

/** What is typed of a plan. */
export type Form = {
  name: string;
  family: string;
  variant: string;
  wire: string;
  parts: Record<string, string>;
  t: Record<string, string>;
  // Lengths by the solver, and what they were solved for: they hold for nothing else.
  solved: Schemas["Solved"][];
  solvedFor: string;
};

/** What solved lengths hold for: everything but the name and what was measured afterwards. */
export const solvedFor = (v: Form) =>
  JSON.stringify([
    v.family,
    v.variant,
    v.wire,
    Object.entries(v.parts ?? {})
      .filter(([, id]) => id)
      .sort(),
    Object.entries(v.t)
      .filter(([k, t]) => t?.trim() && !k.startsWith("measured") && !["knot", "trim_percent"].includes(k))
      .sort(),
  ]);

export const empty: Form = {
  name: "",
  family: "",
  variant: "",
  wire: "pvc",
  parts: {},
  t: { for: "7.1", trim_percent: "2" },
  solved: [],
  solvedFor: "",
};

/** An empty form with the antenna that is offered first. */
export function blank(families: Schemas["Family"][]): Form {
  const first = families.find((f) => f.usual) ?? families[0];
  return { ...empty, family: first?.id ?? "", variant: first?.variants[0]?.id ?? "" };
}

/** The request that a form stands for; the server reads every text. */
export function toRequest(v: Form, unit: string, ground: string | undefined, fields: Schemas["FormField"][]) {
  const bag = v.wire.startsWith("bag:") ? v.wire.slice(4) : "";
  const parts = Object.fromEntries(Object.entries({ ...v.parts, wire: bag }).filter(([, id]) => id));
  const texts: Record<string, string> = { ...v.t };
  for (const f of fields) texts[f.id] = v.t[slot(f.id).slice(2)] ?? "";
  return {
    family: v.family,
    variant: v.variant,
    frequency_hz: 0,
    wire: bag ? undefined : v.wire,
    parts,
    texts: Object.fromEntries(Object.entries(texts).filter(([k, t]) => t?.trim() || !k.startsWith("measured"))),
    unit: unit as "m" | "ft",
    ground: ground || undefined,
    solved: v.solved?.length && v.solvedFor === solvedFor(v) ? v.solved : undefined,
  };
}

/** The server's field paths in the form's names. */
export const rename = (path: string) => {
  const p = path.replace(/^plan\./, "");
  if (["family", "variant", "wire", "name"].includes(p)) return p;
  if (p.startsWith("parts.")) return p === "parts.wire" ? "wire" : p;
  return slot(p === "frequency_hz" ? "for" : p);
};

export function toForm(d: Schemas["DeploymentDetail"]): Form {
  const plan = d.deployment.plan;
  const t: Record<string, string> = {};
  for (const [k, text] of Object.entries(d.plan_texts ?? {})) t[slot(k).slice(2)] = text;
  const form: Form = {
    name: d.deployment.name,
    family: plan.family,
    variant: plan.variant,
    wire: plan.parts?.wire ? `bag:${plan.parts.wire}` : (plan.wire ?? "pvc"),
    parts: { ...empty.parts, ...plan.parts },
    t,
    solved: plan.solved ?? [],
    solvedFor: "",
  };
  return { ...form, solvedFor: solvedFor(form) };
}
