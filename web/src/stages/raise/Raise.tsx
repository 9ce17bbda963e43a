import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { Fragment, useEffect, useMemo, useRef, useState } from "react";
import { useFieldArray, useForm } from "react-hook-form";
import { useNavigate } from "react-router";
import { v7 as uuid } from "uuid";
import { type Built, call, type Length, type Schemas, useDeployment, useGet, useMe, useReference } from "../../api/client";
import { send } from "../../api/outbox";
import { Layout } from "../../draw/Layout";
import { type Asked, AskFields, slot, textsOf } from "../../parts/AskFields";
import { showTrouble, useFormDraft, useLater } from "../../parts/draft";
import { Forecast, Progress } from "../../parts/Forecast";
import { Choose, Field, LengthField, lengthText, num, typedLength } from "../../parts/fields";
import { Opening } from "../../parts/Opening";
import { NoAntenna, useAntenna } from "../../parts/useAntenna";
import { useComputed } from "../../parts/useComputed";
import { SetUpClock } from "./Clock";
import { Photos } from "./Photos";
import { KeepRecipe } from "./Recipe";

type Form = {
  variant: string;
  choke: string;
  choke_distance: string;
  coax: string;
  coax_length: string;
  choke_part: string;
  transformer_part: string;
  tuner_part: string;
  metals: { what: string; distance: string }[];
  wind: string;
  power: string;
  minutes: string;
  notes: string;
  reason: string;
  at: string;
  confirmed: string[];
  t: Record<string, string>;
};

function toForm(b: Built, texts: Record<string, string>, imperial: boolean, power: number): Form {
  const l = (x?: Length) => lengthText(x, imperial);
  const n = (x?: number) => (x ? String(x) : "");
  const t: Record<string, string> = {};
  for (const [k, text] of Object.entries(texts)) t[slot(k).slice(2)] = text;
  return {
    variant: b.variant,
    choke: b.choke?.place ?? "",
    choke_distance: l(b.choke?.distance),
    coax: b.parts?.coax ? `bag:${b.parts.coax}` : (b.coax?.type ?? ""),
    coax_length: l(b.coax?.length),
    choke_part: b.parts?.choke ?? "",
    transformer_part: b.parts?.transformer ?? "",
    tuner_part: b.parts?.tuner ?? "",
    metals: [...(b.metal ?? []).map((x) => ({ what: x.what, distance: l(x.distance) })), { what: "", distance: "" }],
    wind: b.wind ?? "",
    power: n(b.power_w ?? power),
    minutes: n(b.setup_minutes),
    notes: b.notes ?? "",
    reason: "",
    at: "",
    confirmed: b.confirmed ?? [],
    t,
  };
}

function toBuilt(v: Form, base: Built, unit: string, fields: Asked[]): Built {
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
    texts: textsOf(fields, v.t),
    unit: unit as "m" | "ft",
    choke: v.choke ? { place: v.choke, distance: v.choke === "along" ? l(v.choke_distance) : undefined } : undefined,
    // A coax that was recorded from the bag keeps its data, also when it is out of the bag by now.
    coax: v.coax ? { ...(bag ? bag === base.parts?.coax && base.coax : { type: v.coax }), length: l(v.coax_length) } : undefined,
    metal: (v.metals ?? [])
      .filter((x) => x.what.trim() || x.distance.trim())
      .map((x) => ({ what: x.what.trim(), distance: l(x.distance) })),
    wind: v.wind || undefined,
    power_w: num(v.power),
    setup_minutes: num(v.minutes),
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
  setup_minutes: "minutes",
};
const rename = (path: string) => {
  const p = path.replace(/^built\./, "");
  if (p.startsWith("metal.")) return p.replace(/^metal/, "metals");
  return renamed[p] ?? slot(p);
};

export function Thread({
  revisions,
  now,
  onPick,
  next,
}: {
  revisions: Schemas["Revision"][];
  now?: string;
  onPick?: (id: string) => void;
  next?: string;
}) {
  return (
    <ol className="thread" reversed>
      {next && (
        <li className="next">
          <span className="dot" />
          <b className="mono">r{revisions.length + 1}</b> <span className="soft">now</span>
          <div style={{ color: "var(--reed)" }}>{next}</div>
        </li>
      )}
      {[...revisions].reverse().map((r) => (
        <li key={r.id} className={r.id === now ? "now" : ""}>
          <span className="dot" />
          <button type="button" className="pick" onClick={() => onPick?.(r.id)} aria-pressed={r.id === now}>
            <b className="mono">r{r.seq}</b> <span className="mono soft">{new Date(r.at).toISOString().slice(11, 16)}</span>
            <div>{r.reason}</div>
            <div className="small soft">
              {r.changes.map((c) => (
                <div key={c.field}>
                  {c.label}: <span className="mono">{c.a}</span> to <span className="mono copper">{c.b}</span>
                </div>
              ))}
              {r.sweeps.length > 0 ? `${r.sweeps.length} ${r.sweeps.length === 1 ? "sweep" : "sweeps"}` : "not swept"}
            </div>
          </button>
        </li>
      ))}
    </ol>
  );
}

export default function Raise({ outing }: { outing: Schemas["OutingDetail"] }) {
  const go = useNavigate();
  const me = useMe();
  const reference = useReference();
  const { tag, row } = useAntenna(outing);
  const detail = useDeployment(tag?.id);
  const imperial = me.data?.imperial ?? false;
  const unit = imperial ? "ft" : "m";
  const d = detail.data;
  const last = d?.revisions[d.revisions.length - 1];
  // The newest revision, or the recipe that it is laid out from, or the plan.
  const base = useMemo<Built | undefined>(() => last?.built ?? d?.afresh ?? (d && { ...d.planned.shape }), [last, d]);
  const from = useMemo(
    () => (base && me.data && d ? toForm(base, d.built_texts ?? {}, imperial, me.data.power_w) : undefined),
    [base, d, imperial, me.data],
  );
  const form = useForm<Form>({ defaultValues: toForm({ family: "", variant: "", frequency_hz: 0 }, {}, false, 0) });
  const { forget } = useFormDraft(form, `raised:${tag?.id}:${last?.id ?? "plan"}`, from);
  const fresh = useRef(uuid());
  const [told, setTold] = useState("");
  const v = form.watch();
  const bag = useGet<Schemas["BagList"]>("/api/bag");
  const things = bag.data?.things ?? [];
  const coaxes = things.filter((b) => b.part.kind === "coax");
  const metals = useFieldArray({ control: form.control, name: "metals" });
  const list = useRef<Asked[]>([]);
  const typed = useLater(JSON.stringify([v, unit, tag?.id]), 100);
  const checked = useQuery<Schemas["Checked"], Error>({
    queryKey: ["check", typed, base],
    queryFn: () => {
      const [f, u] = JSON.parse(typed) as [Form, string];
      return call<Schemas["Checked"]>("POST", "/api/check", {
        built: toBuilt(f, base as Built, u, list.current),
        planned: d?.planned.shape,
      });
    },
    enabled: base !== undefined && v.variant !== "",
    placeholderData: (before) => before,
    staleTime: 60000,
  });
  list.current = checked.data?.fields ?? d?.built_fields ?? [];
  useEffect(() => {
    form.clearErrors();
    for (const f of checked.data?.faults ?? []) form.setError(rename(f.path) as keyof Form, { message: f.text });
  }, [checked.data, form]);

  // What was kept last stays on the model until the changed figures are sound.
  const sound =
    checked.data !== undefined && !checked.isPlaceholderData && !(checked.data.faults ?? []).some((f) => f.severity === "error");
  const [ready, setReady] = useState<Built>();
  useEffect(() => {
    if (!sound || !base) return;
    const [f, u, of] = JSON.parse(typed) as [Form, string, string];
    if (of !== tag?.id) return;
    const built = toBuilt(f, base, u, list.current);
    setReady({ ...built, confirmed: undefined, notes: undefined, wind: undefined, setup_minutes: undefined });
  }, [sound, typed, base, tag?.id]);
  const computed = useComputed(
    "raise",
    ready && { kind: "forecast", built: ready, outing_id: outing.outing.id, ground: d?.deployment.plan.ground },
    true,
  );

  const moved = useComputed(
    "moved",
    d?.recipe && ready
      ? { kind: "moved", deployment_id: d.deployment.id, built: ready, outing_id: outing.outing.id, ground: d.deployment.plan.ground }
      : undefined,
  );

  if (!tag) return <NoAntenna outing={outing} />;
  if (!d || !base || !reference.data || !me.data || !bag.data) return <Opening of={[detail, reference, me, bag]} />;
  const faults = checked.data?.faults ?? [];
  const wrong = faults.filter((f) => f.severity === "error").length;
  const asked = faults.length - wrong;
  const cautions = checked.data?.cautions ?? [];
  const open = cautions.filter((c) => !v.confirmed?.includes(c.code)).length;
  const next = d.revisions.length + 1;
  const headline =
    wrong > 0
      ? "One of these figures cannot be."
      : asked > 0
        ? "One of these figures is unlikely: look at it again."
        : open > 0
          ? `${open} ${open === 1 ? "danger" : "dangers"} to look at before anything goes up.`
          : d.revisions.length === 0
            ? "It closes. Keep it as put up, then sweep."
            : `As put up: r${d.revisions.length}. Change what changed, and say why.`;
  const save = async () => {
    setTold("");
    const f = form.getValues();
    try {
      const done = await send<Schemas["DeploymentDetail"]>(
        "PUT",
        `/api/revisions/${fresh.current}`,
        {
          deployment_id: tag.id,
          reason: f.reason.trim() || (next === 1 ? "as put up" : "changed"),
          built: toBuilt(f, base, unit, list.current),
          at: f.at ? `${outing.outing.date}T${f.at}:00Z` : undefined,
        },
        `r${next} of ${tag.name}`,
      );
      forget();
      fresh.current = uuid();
      if (done) void go(`/o/${outing.outing.id}/sweep`);
      else setTold("The link is down: kept here, and sent when it is back.");
    } catch (e) {
      setTold(showTrouble(form, e, rename));
    }
  };
  const { family } = base;
  const takeTurns = (id: string) => {
    const texts = things.find((b) => b.part.id === id)?.texts;
    if (texts?.primary) form.setValue("t.primary_turns", texts.primary, { shouldDirty: true });
    if (texts?.secondary) form.setValue("t.secondary_turns", texts.secondary, { shouldDirty: true });
  };
  const variants = reference.data.families.find((x) => x.id === family)?.variants ?? [];
  // A thing of one kind from the bag; one that was recorded and is out of the bag by now can stay.
  const inBag = (kind: "choke" | "transformer" | "tuner", label: string, none: string, help: string) => {
    const was = base.own?.[kind];
    const listed = things.filter((b) => b.part.kind === kind);
    return (
      <Choose
        form={form}
        name={`${kind}_part`}
        label={label}
        help={help}
        onInput={kind === "transformer" ? (e) => takeTurns((e.target as HTMLSelectElement).value) : undefined}
        options={[
          ["", none],
          ...(was && !listed.some((b) => b.part.id === was.id) ? [[was.id, `${was.name} (was in the bag)`] as [string, string]] : []),
          ...listed.map((b) => [b.part.id, `${b.part.name} (bag)`] as [string, string]),
        ]}
      />
    );
  };
  const L = (name: keyof Form, label: string, help?: string) => (
    <LengthField form={form} name={name as "notes"} label={`${label}, ${unit}`} unit={unit} help={help} />
  );
  return (
    <>
      <div className="say">
        <h1>{headline}</h1>
        {computed.result?.forecast && <p className="tide">Computed: {computed.result.forecast.sentence}</p>}
        {d.recipe && (
          <p>
            Laid out as <b>{d.recipe.name}</b>, {d.recipe.revision} at {d.recipe.place}, {d.recipe.date}.{" "}
            {moved.result?.moved && (
              <span className="tide">
                {moved.result.moved.sentence} {moved.result.moved.detail}
              </span>
            )}
          </p>
        )}
        <Progress of={moved} what="computing what this place does to it" />
      </div>
      {row}
      <div className="two">
        <form
          className="stack"
          noValidate
          onSubmit={(e) => {
            e.preventDefault();
            void save();
          }}
        >
          <Layout built={checked.data?.drawing} planned={d.planned.drawing} imperial={imperial} faults={faults} />
          <ul className="keyline">
            <li>
              <svg viewBox="0 0 34 10" aria-hidden="true">
                <path d="M1 5H33" stroke="var(--copper)" strokeWidth="3.4" />
              </svg>
              as built
            </li>
            <li>
              <svg viewBox="0 0 34 10" aria-hidden="true">
                <path d="M1 5H33" stroke="var(--tide)" strokeWidth="2" strokeDasharray="7 5" />
              </svg>
              as planned
            </li>
          </ul>
          {checked.data && wrong === 0 && (
            <details className="fold">
              <summary>What to measure on the spot</summary>
              <ul className="assumed">
                {checked.data.onsite.map((x) => (
                  <li key={x}>{x}</li>
                ))}
              </ul>
              <p className="small soft">
                By the figures below. Where the tape says otherwise, change the figure: the drawing shows whether it closes.
              </p>
            </details>
          )}
          <details className="fold">
            <summary>What to expect of it: SWR, direction, losses</summary>
            <Forecast of={computed} limit={me.data.good_swr} />
          </details>
          <div className="fields">
            <Choose form={form} name="variant" label="How it hangs" options={variants.map((x) => [x.id, x.name])} />
            <AskFields form={form} fields={list.current} unit={unit} />
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
            {v.choke === "along" && L("choke_distance", "From the feed")}
            <Choose
              form={form}
              name="coax"
              label="Coax"
              options={[
                ["", "none"],
                ...(base.parts?.coax && !coaxes.some((c) => c.part.id === base.parts?.coax)
                  ? [[`bag:${base.parts.coax}`, `${base.coax?.own?.name ?? "coax"} (was in the bag)`] as [string, string]]
                  : []),
                ...coaxes.map((c) => [`bag:${c.part.id}`, `${c.part.name} (bag)`] as [string, string]),
                ...reference.data.cables.map((c) => [c.id, c.name] as [string, string]),
              ]}
            />
            {L("coax_length", "Coax length")}
            {v.choke && inBag("choke", "Which choke", "not said", "3000 ohm are taken if not said")}
            {list.current.some((f) => f.id === "primary_turns") &&
              inBag("transformer", "Which transformer", "not said", "a typical core is taken if not said")}
            {inBag("tuner", "Tuner", "none", " ")}
            {metals.fields.map((x, i) => (
              <Fragment key={x.id}>
                <Field
                  form={form}
                  name={`metals.${i}.what`}
                  label={i === 0 ? "Metal near" : `Metal near, ${i + 1}`}
                  help="table, fence, rigging"
                  autoComplete="off"
                />
                {L(`metals.${i}.distance` as keyof Form, "at")}
              </Fragment>
            ))}
            {v.metals?.at(-1)?.what && (
              <button type="button" className="linkbtn full" onClick={() => metals.append({ what: "", distance: "" })}>
                More metal near
              </button>
            )}
            <Choose form={form} name="wind" label="Wind" options={reference.data.winds.map((w) => [w, w || "not noted"])} />
            <Field form={form} name="power" label="Power, W" inputMode="decimal" />
            <Field
              form={form}
              name="minutes"
              label="Set-up took, minutes"
              inputMode="numeric"
              help={d.clock_minutes > 0 ? `${d.clock_minutes} by the clock if left empty` : " "}
            />
          </div>
          <fieldset className="choice" style={{ display: "block" }}>
            <legend style={{ fontSize: 18, fontWeight: 700, color: "var(--ink)" }}>Dangers, here and now</legend>
            {cautions.map((c) => (
              <div className="danger" key={c.code}>
                <input
                  type="checkbox"
                  id={`danger-${c.code}`}
                  value={c.code}
                  aria-labelledby={`title-${c.code}`}
                  style={{ width: 26, height: 26, margin: "10px 6px", position: "static", opacity: 1 }}
                  {...form.register("confirmed")}
                />
                <span style={{ display: "block" }}>
                  <b>
                    <span id={`title-${c.code}`}>{c.title}</span>
                  </b>{" "}
                  {c.figure && <span className="mono clay">{c.figure}</span>}
                  <span className="small soft" style={{ display: "block" }}>
                    {c.text}
                  </span>
                </span>
              </div>
            ))}
          </fieldset>
          <p className="small soft">Estimates. Local rules, the land's owner and your licence come first.</p>
          <div className="fields">
            <Field
              form={form}
              name="reason"
              label="What changed, and why"
              className="full"
              help={next === 1 ? "as put up" : "like: raised the far end clear of the fence"}
              autoComplete="off"
            />
            <Field form={form} name="at" label="When, UTC" help="now" placeholder="14:05" />
          </div>
          <Field form={form} name="notes" label="Notes" multiline minRows={2} />
          <div className="row">
            <Button type="submit" variant="contained" disabled={wrong > 0}>
              Keep as r{next}
            </Button>
            <span role="status">{told}</span>
          </div>
        </form>
        <aside className="stack" aria-label="Revisions and forecast">
          <SetUpClock of={d} />
          <Thread revisions={d.revisions} now={last?.id} onPick={() => go(`/o/${outing.outing.id}/sweep`)} />
          <KeepRecipe key={`${tag.id} ${d.revisions.length}`} revisions={d.revisions} name={tag.name} />
          {d.revisions.length === 0 && (
            <p className="soft">Planned only. What you keep here becomes r1, and stays as it was when you change it.</p>
          )}
          <Photos of={d} />
        </aside>
      </div>
    </>
  );
}
