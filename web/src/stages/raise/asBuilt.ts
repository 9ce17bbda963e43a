import type { Built, Length } from "../../api/client";
import { type Asked, slot, textsOf } from "../../parts/AskFields";
import { lengthText, typedLength } from "../../parts/fields";

/** What is typed of an antenna as it stands. */
export type Form = {
  variant: string;
  ground: string;
  choke: string;
  choke_distance: string;
  coax: string;
  coax_length: string;
  choke_part: string;
  transformer_part: string;
  tuner_part: string;
  metals: { what: string; kind: string; distance: string; size: string }[];
  wind: string;
  power: string;
  good: string;
  minutes: string;
  notes: string;
  reason: string;
  at: string;
  confirmed: string[];
  t: Record<string, string>;
};

export const noMetal = { what: "", kind: "", distance: "", size: "" };

export function toForm(b: Built, texts: Record<string, string>, imperial: boolean, power: number): Form {
  const l = (x?: Length) => lengthText(x, imperial);
  const n = (x?: number) => (x ? String(x) : "");
  const t: Record<string, string> = {};
  for (const [k, text] of Object.entries(texts)) t[slot(k).slice(2)] = text;
  return {
    variant: b.variant,
    ground: b.ground ?? "",
    choke: b.choke?.place ?? "",
    choke_distance: l(b.choke?.distance),
    coax: b.parts?.coax ? `bag:${b.parts.coax}` : (b.coax?.type ?? ""),
    coax_length: l(b.coax?.length),
    choke_part: b.parts?.choke ?? "",
    transformer_part: b.parts?.transformer ?? "",
    tuner_part: b.parts?.tuner ?? "",
    metals: [...(b.metal ?? []).map((x) => ({ what: x.what, kind: x.kind ?? "", distance: l(x.distance), size: l(x.size) })), noMetal],
    wind: b.wind ?? "",
    power: n(b.power_w ?? power),
    good: n(b.good_swr),
    minutes: n(b.setup_minutes),
    notes: b.notes ?? "",
    reason: "",
    at: "",
    confirmed: b.confirmed ?? [],
    t,
  };
}

export const empty = toForm({ family: "", variant: "", frequency_hz: 0 }, {}, false, 0);

/** The record that a form stands for, made from an earlier one; the server reads every text. */
export function toBuilt(v: Form, base: Built, unit: string, fields: Asked[]): Built {
  const l = (t: string) => typedLength(t, unit);
  const bag = v.coax.startsWith("bag:") ? v.coax.slice(4) : "";
  const parts: Record<string, string> = { ...base.parts };
  for (const [role, id] of Object.entries({
    coax: bag,
    choke: v.choke ? v.choke_part : "",
    transformer: v.transformer_part,
    tuner: v.tuner_part,
  })) {
    delete parts[role];
    if (id) parts[role] = id;
  }
  return {
    ...base,
    variant: v.variant,
    parts,
    texts: { ...textsOf(fields, v.t), power_w: v.power, good_swr: v.good, setup_minutes: v.minutes },
    unit: unit as "m" | "ft",
    ground: v.ground || undefined,
    choke: v.choke ? { place: v.choke, distance: v.choke === "along" ? l(v.choke_distance) : undefined } : undefined,
    // A coax that was recorded from the bag keeps its data, also when it is out of the bag by now.
    coax: v.coax ? { ...(bag ? bag === base.parts?.coax && base.coax : { type: v.coax }), length: l(v.coax_length) } : undefined,
    metal: (v.metals ?? [])
      .filter((x) => x.what || x.kind || x.distance.trim())
      // A name goes with the kind that it was given with.
      .map((x, i) => ({
        what: x.kind && base.metal?.[i]?.kind !== x.kind ? "" : x.what,
        kind: x.kind || undefined,
        distance: l(x.distance),
        size: l(x.size),
      })),
    wind: v.wind || undefined,
    confirmed: v.confirmed,
    notes: v.notes || undefined,
  };
}

const renamed: Record<string, string> = {
  variant: "variant",
  reason: "reason",
  at: "at",
  "choke.place": "choke",
  "choke.distance": "choke_distance",
  "coax.type": "coax",
  "coax.length": "coax_length",
  power_w: "power",
  good_swr: "good",
  setup_minutes: "minutes",
};

/** The server's field paths in the form's names. */
export const rename = (path: string) => {
  const p = path.replace(/^built\./, "");
  if (p.startsWith("metal.")) return p.replace(/^metal/, "metals");
  return renamed[p] ?? slot(p);
};
