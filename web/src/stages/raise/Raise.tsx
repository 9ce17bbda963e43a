import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { useForm } from "react-hook-form";
import { useNavigate } from "react-router";
import { v7 as uuid } from "uuid";
import { type Built, call, type Length, type Schemas, useDeployment, useMe, useReference } from "../../api/client";
import { send } from "../../api/outbox";
import { SideView } from "../../draw/SideView";
import { showTrouble, useFormDraft, useLater } from "../../parts/draft";
import { Choose, Field, LengthField, lengthText, num, typedLength } from "../../parts/fields";
import { Opening } from "../../parts/Opening";
import { NoAntenna, useAntenna } from "../../parts/useAntenna";

type Form = {
  variant: string;
  radiator: string;
  leg_b: string;
  feed_height: string;
  far_height: string;
  pole_height: string;
  apex_angle: string;
  bearing: string;
  wire_count: string;
  wire_length: string;
  wire_height: string;
  primary: string;
  secondary: string;
  choke: string;
  choke_distance: string;
  coax: string;
  coax_length: string;
  metal: string;
  metal_distance: string;
  wind: string;
  power: string;
  minutes: string;
  notes: string;
  reason: string;
  at: string;
  confirmed: string[];
};

function toForm(b: Built, imperial: boolean, power: number): Form {
  const l = (x?: Length) => lengthText(x, imperial);
  const n = (x?: number) => (x ? String(x) : "");
  const wires = b.family === "vertical" ? b.radials : b.counterpoise;
  return {
    variant: b.variant,
    radiator: l(b.radiator),
    leg_b: l(b.leg_b),
    feed_height: l(b.feed_height),
    far_height: l(b.far_height),
    pole_height: l(b.pole_height),
    apex_angle: n(b.apex_angle),
    bearing: n(b.bearing),
    wire_count: n(wires?.count),
    wire_length: l(wires?.length),
    wire_height: l(wires?.height),
    primary: n(b.primary_turns),
    secondary: n(b.secondary_turns),
    choke: b.choke?.place ?? "",
    choke_distance: l(b.choke?.distance),
    coax: b.coax?.type ?? "",
    coax_length: l(b.coax?.length),
    metal: b.metal?.[0]?.what ?? "",
    metal_distance: l(b.metal?.[0]?.distance),
    wind: b.wind ?? "",
    power: n(b.power_w ?? power),
    minutes: n(b.setup_minutes),
    notes: b.notes ?? "",
    reason: "",
    at: "",
    confirmed: b.confirmed ?? [],
  };
}

function toBuilt(v: Form, base: Built, unit: string): Built {
  const l = (t: string) => typedLength(t, unit);
  const wires = { count: num(v.wire_count) ?? 0, length: l(v.wire_length), height: l(v.wire_height) };
  const dipole = base.family === "dipole";
  return {
    family: base.family,
    variant: v.variant,
    frequency_hz: base.frequency_hz,
    wire: base.wire,
    radiator: l(v.radiator),
    leg_b: dipole ? l(v.leg_b) : undefined,
    feed_height: l(v.feed_height),
    far_height: base.family === "vertical" ? undefined : l(v.far_height),
    pole_height: l(v.pole_height),
    apex_angle: dipole && v.variant === "inverted-v" ? num(v.apex_angle) : undefined,
    bearing: num(v.bearing),
    counterpoise: base.family === "end-fed" ? wires : undefined,
    radials: base.family === "vertical" ? wires : undefined,
    primary_turns: base.family === "end-fed" ? num(v.primary) : undefined,
    secondary_turns: base.family === "end-fed" ? num(v.secondary) : undefined,
    choke: v.choke ? { place: v.choke, distance: v.choke === "along" ? l(v.choke_distance) : undefined } : undefined,
    coax: v.coax ? { type: v.coax, length: l(v.coax_length) } : undefined,
    metal: [...(v.metal.trim() ? [{ what: v.metal.trim(), distance: l(v.metal_distance) }] : []), ...(base.metal ?? []).slice(1)],
    wind: v.wind || undefined,
    power_w: num(v.power),
    setup_minutes: num(v.minutes),
    confirmed: v.confirmed,
    notes: v.notes || undefined,
  };
}

const rename = (path: string) =>
  ({
    "radials.count": "wire_count",
    "counterpoise.count": "wire_count",
    "radials.length": "wire_length",
    "counterpoise.length": "wire_length",
    "radials.height": "wire_height",
    "counterpoise.height": "wire_height",
    primary_turns: "primary",
    secondary_turns: "secondary",
    "choke.place": "choke",
    "choke.distance": "choke_distance",
    "coax.type": "coax",
    "coax.length": "coax_length",
    "metal.0.what": "metal",
    "metal.0.distance": "metal_distance",
    power_w: "power",
    setup_minutes: "minutes",
  })[path.replace(/^built\./, "")] ?? path.replace(/^built\./, "");

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
  const base = useMemo<Built | undefined>(() => last?.built ?? (d && { ...d.planned.shape }), [last, d]);
  const from = useMemo(() => (base && me.data ? toForm(base, imperial, me.data.power_w) : undefined), [base, imperial, me.data]);
  const form = useForm<Form>({ defaultValues: toForm({ family: "", variant: "", frequency_hz: 0 }, false, 0) });
  const forget = useFormDraft(form, `built:${tag?.id}:${last?.id ?? "plan"}`, from);
  const fresh = useRef(uuid());
  const [told, setTold] = useState("");
  const v = form.watch();
  const typed = useLater(JSON.stringify([v, unit]), 160);
  const checked = useQuery<Schemas["Checked"], Error>({
    queryKey: ["check", typed, base],
    queryFn: () => {
      const [f, u] = JSON.parse(typed) as [Form, string];
      return call<Schemas["Checked"]>("POST", "/api/check", { built: toBuilt(f, base as Built, u), planned: d?.planned.shape });
    },
    enabled: base !== undefined && v.radiator !== "",
    placeholderData: (before) => before,
    staleTime: 60000,
  });
  useEffect(() => {
    form.clearErrors();
    for (const f of checked.data?.faults ?? []) form.setError(rename(f.path) as keyof Form, { message: f.text });
  }, [checked.data, form]);

  if (!tag) return <NoAntenna outing={outing} />;
  if (!d || !base || !reference.data || !me.data) return <Opening of={[detail, reference, me]} />;
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
          built: toBuilt(f, base, unit),
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
  const variants = reference.data.families.find((x) => x.id === family)?.variants ?? [];
  const L = (name: keyof Form, label: string, help?: string) => (
    <LengthField form={form} name={name as "radiator"} label={`${label}, ${unit}`} unit={unit} help={help} />
  );
  return (
    <>
      <div className="say">
        <h1>{headline}</h1>
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
          <SideView
            built={checked.data?.drawing}
            planned={d.planned.drawing}
            imperial={imperial}
            labels={[
              { role: "radiator", text: v.radiator },
              { role: "radiator", text: family === "dipole" ? v.leg_b : "" },
            ]}
          />
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
          <div className="fields">
            <Choose form={form} name="variant" label="How it hangs" options={variants.map((x) => [x.id, x.name])} />
            {L("radiator", family === "dipole" ? "First leg" : "Radiator")}
            {family === "dipole" && L("leg_b", "Second leg")}
            {L("feed_height", "Feed point up")}
            {family !== "vertical" && L("far_height", "Far end up")}
            {L("pole_height", "Pole")}
            {family === "dipole" && v.variant === "inverted-v" && (
              <Field form={form} name="apex_angle" label="Angle between legs" inputMode="numeric" />
            )}
            <Field form={form} name="bearing" label="Bearing, degrees" inputMode="numeric" />
            {family !== "dipole" && (
              <Field form={form} name="wire_count" label={family === "vertical" ? "Radials" : "Counterpoise wires"} inputMode="numeric" />
            )}
            {family !== "dipole" && L("wire_length", "Each of")}
            {family !== "dipole" && L("wire_height", "Their ends up")}
            {family === "end-fed" && <Field form={form} name="primary" label="Transformer turns" inputMode="numeric" />}
            {family === "end-fed" && <Field form={form} name="secondary" label="to turns" inputMode="numeric" />}
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
              options={[["", "none"], ...reference.data.cables.map((c) => [c.id, c.name] as [string, string])]}
            />
            {L("coax_length", "Coax length")}
            <Field form={form} name="metal" label="Metal near" help="table, fence, rigging" autoComplete="off" />
            {L("metal_distance", "at")}
            <Choose form={form} name="wind" label="Wind" options={reference.data.winds.map((w) => [w, w || "not noted"])} />
            <Field form={form} name="power" label="Power, W" inputMode="decimal" />
            <Field form={form} name="minutes" label="Set-up took, minutes" inputMode="numeric" />
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
        <aside aria-label="Revisions">
          <Thread revisions={d.revisions} now={last?.id} onPick={() => go(`/o/${outing.outing.id}/sweep`)} />
          {d.revisions.length === 0 && (
            <p className="soft">Planned only. What you keep here becomes r1, and stays as it was when you change it.</p>
          )}
        </aside>
      </div>
    </>
  );
}
