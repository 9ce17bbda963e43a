import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { useForm } from "react-hook-form";
import { useNavigate } from "react-router";
import { v7 as uuid } from "uuid";
import { call, type Length, type Schemas, Trouble, useDeployment, useMe, useReference } from "../../api/client";
import { send } from "../../api/outbox";
import { SideView } from "../../draw/SideView";
import { Sketch } from "../../draw/Sketch";
import { showTrouble, useFormDraft, useLater } from "../../parts/draft";
import { Choose, Field, LengthField, lengthText, num, Picks, typedLength } from "../../parts/fields";
import { Opening } from "../../parts/Opening";
import { keepDeployment, lastDeployment } from "../../parts/place";
import { Tag } from "../../parts/Tag";
import { remove } from "../../parts/Undo";

type Form = {
  name: string;
  family: string;
  variant: string;
  frequency: string;
  wire: string;
  feed_height: string;
  far_height: string;
  pole_height: string;
  apex_angle: string;
  half_waves: string;
  radials: string;
  radial_length: string;
  radial_height: string;
  counterpoise: string;
  primary: string;
  secondary: string;
  knot: string;
  trim: string;
};

const empty: Form = {
  name: "",
  family: "end-fed",
  variant: "sloper",
  frequency: "7.1",
  wire: "pvc",
  feed_height: "",
  far_height: "",
  pole_height: "",
  apex_angle: "",
  half_waves: "1",
  radials: "",
  radial_length: "",
  radial_height: "",
  counterpoise: "",
  primary: "",
  secondary: "",
  knot: "",
  trim: "2",
};

/** The request that a form stands for; the server reads every length as typed. */
function toRequest(v: Form, unit: string, ground: string | undefined, hz: number | undefined) {
  const l = (t: string) => typedLength(t, unit);
  return {
    family: v.family,
    variant: v.variant,
    frequency_hz: hz ?? 0,
    wire: v.wire,
    feed_height: l(v.feed_height),
    far_height: v.family === "vertical" ? undefined : l(v.far_height),
    pole_height: l(v.pole_height),
    apex_angle: v.variant === "inverted-v" && v.family === "dipole" ? num(v.apex_angle) : undefined,
    half_waves: v.family === "end-fed" ? num(v.half_waves) : undefined,
    radials: v.family === "vertical" ? { count: num(v.radials) ?? 0, length: l(v.radial_length), height: l(v.radial_height) } : undefined,
    counterpoise: v.family === "end-fed" && v.counterpoise.trim() ? { count: 1, length: l(v.counterpoise) } : undefined,
    primary_turns: v.family === "end-fed" ? num(v.primary) : undefined,
    secondary_turns: v.family === "end-fed" ? num(v.secondary) : undefined,
    knot: l(v.knot),
    trim_percent: num(v.trim) ?? 0,
    ground: ground || undefined,
  };
}

/** The server's field paths in the form's names. */
const rename = (path: string) =>
  ({
    frequency_hz: "frequency",
    "radials.length": "radial_length",
    "radials.height": "radial_height",
    "radials.count": "radials",
    "counterpoise.length": "counterpoise",
    primary_turns: "primary",
    secondary_turns: "secondary",
    trim_percent: "trim",
  })[path.replace(/^plan\./, "")] ?? path.replace(/^plan\./, "");

function toForm(d: Schemas["Deployment"], imperial: boolean): Form {
  const p = d.plan;
  const l = (x?: Length) => lengthText(x, imperial);
  const n = (x?: number) => (x ? String(x) : "");
  return {
    ...empty,
    name: d.name,
    family: p.family,
    variant: p.variant,
    frequency: String(p.frequency_hz / 1e6),
    wire: p.wire ?? "pvc",
    feed_height: l(p.feed_height),
    far_height: l(p.far_height),
    pole_height: l(p.pole_height),
    apex_angle: n(p.apex_angle),
    half_waves: n(p.half_waves) || "1",
    radials: n(p.radials?.count),
    radial_length: l(p.radials?.length),
    radial_height: l(p.radials?.height),
    counterpoise: l(p.counterpoise?.length),
    primary: n(p.primary_turns),
    secondary: n(p.secondary_turns),
    knot: l(p.knot),
    trim: String(p.trim_percent ?? 0),
  };
}

function CutList({ plan }: { plan: Schemas["Plan"] }) {
  return (
    <div className="scroll">
      <table>
        <thead>
          <tr>
            <th>Piece</th>
            <th className="num">Electrical</th>
            <th>Added</th>
            <th className="num">Cut</th>
          </tr>
        </thead>
        <tbody>
          {(plan.pieces ?? []).map((p) => (
            <tr key={p.name}>
              <td>
                {p.count} {p.name}
                {p.count > 1 ? "s" : ""}
              </td>
              <td className="mono tide">
                {p.electrical.metric}
                <br />
                <span className="small">{p.electrical.imperial}</span>
              </td>
              <td className="small">
                {p.allowances.map((a) => (
                  <div key={a.name}>
                    {a.name} <span className="mono">{a.length.metric}</span>
                  </div>
                ))}
                {(p.trim.m ?? 0) > 0 && (
                  <div>
                    to trim <span className="mono">{p.trim.metric}</span>
                  </div>
                )}
              </td>
              <td className="mono">
                <b style={{ fontSize: 20 }}>{p.cut.metric}</b>
                <br />
                {p.cut.imperial}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

export default function Cut({ outing }: { outing: Schemas["OutingDetail"] }) {
  const go = useNavigate();
  const me = useMe();
  const reference = useReference();
  const imperial = me.data?.imperial ?? false;
  const unit = imperial ? "ft" : "m";
  const id = outing.outing.id;
  const [at, setAt] = useState(() => {
    const last = lastDeployment(id);
    return outing.tags.find((t) => t.id === last)?.id ?? "new";
  });
  const fresh = useRef(uuid());
  const chosen = useDeployment(at === "new" ? undefined : at);
  const from = useMemo(() => (at === "new" ? empty : chosen.data && toForm(chosen.data.deployment, imperial)), [at, chosen.data, imperial]);
  const form = useForm<Form>({ defaultValues: empty });
  const forget = useFormDraft(form, `plan:${id}:${at}`, me.data ? from : undefined);
  const v = form.watch();
  const [told, setTold] = useState("");

  const typed = useLater(JSON.stringify([v, unit, outing.outing.ground]), 140);
  const plan = useQuery<Schemas["Plan"], Error>({
    queryKey: ["plan", typed],
    queryFn: async () => {
      const [f, u, ground] = JSON.parse(typed) as [Form, string, string | undefined];
      const hz = await call<Schemas["Converted"]>("GET", `/api/convert?kind=frequency&text=${encodeURIComponent(f.frequency)}`)
        .then((c) => c.value)
        .catch((e) => {
          if (e instanceof Trouble) return undefined;
          throw e;
        });
      return call<Schemas["Plan"]>("POST", "/api/plan", toRequest(f, u, ground, hz));
    },
    placeholderData: (before) => before,
    staleTime: 60000,
  });
  useEffect(() => {
    // What the server says of a field stands at that field, also before anything is kept.
    form.clearErrors();
    for (const f of plan.data?.faults ?? []) if (f.severity !== "caution") form.setError(rename(f.path) as keyof Form, { message: f.text });
  }, [plan.data, form]);

  const p = plan.data;
  const usual = (l: Length | undefined) => (l?.m ? `${imperial ? l.imperial : l.metric} if left empty` : " ");
  const ok = p !== undefined && (p.pieces ?? []).length > 0;
  const family = reference.data?.families.find((f) => f.id === v.family);
  const save = async () => {
    setTold("");
    const deployment = at === "new" ? fresh.current : at;
    try {
      const f = form.getValues();
      const hz = await call<Schemas["Converted"]>("GET", `/api/convert?kind=frequency&text=${encodeURIComponent(f.frequency)}`);
      const done = await send<Schemas["DeploymentDetail"]>(
        "PUT",
        `/api/deployments/${deployment}`,
        { outing_id: id, name: f.name, plan: toRequest(f, unit, outing.outing.ground, hz.value), lesson: chosen.data?.deployment.lesson },
        `Plan ${f.name}`,
      );
      forget();
      keepDeployment(id, deployment);
      fresh.current = uuid();
      if (done) void go(`/o/${id}/raise`);
      else setTold("The link is down: kept here, and sent when it is back.");
    } catch (e) {
      setTold(showTrouble(form, e, rename));
    }
  };
  if (!reference.data || !me.data) return <Opening of={[reference, me]} />;
  return (
    <form
      className="stack"
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <div className="say">
        <h1>{ok ? p.sentence : "This cannot be cut yet: look at the marked entries."}</h1>
        {ok && (
          <p>
            Expect {p.expect}. The whole takes <span className="mono">{p.wire_used_m.toFixed(1)} m</span> of wire. Cut long: fold back and
            tie before you cut.
          </p>
        )}
      </div>
      {outing.tags.length > 0 && (
        <div className="tagrow noprint">
          {outing.tags.map((t) => (
            <Tag key={t.id} tag={t} pressed={t.id === at} onClick={() => setAt(t.id)} />
          ))}
          <Button variant="outlined" onClick={() => setAt("new")} aria-pressed={at === "new"}>
            Another antenna
          </Button>
        </div>
      )}
      <div className="wide">
        <div className="stack">
          {ok && (
            <SideView
              planned={p.drawing}
              imperial={imperial}
              labels={(p.drawing.lines ?? [])
                .filter((l) => l.role === "radiator")
                .map((_, i) => ({
                  role: "radiator",
                  text:
                    (imperial
                      ? (i && p.shape.leg_b ? p.shape.leg_b : p.shape.radiator)?.imperial
                      : (i && p.shape.leg_b ? p.shape.leg_b : p.shape.radiator)?.metric) ?? "",
                }))
                .slice(0, v.family === "end-fed" ? 1 : 2)}
            />
          )}
          {ok && <CutList plan={p} />}
          {ok && (
            <details className="fold">
              <summary>Why these lengths</summary>
              <p>
                Factor <span className="mono">{p.factor.value.toFixed(3)}</span> of free space, likely{" "}
                <span className="mono">{p.factor.lo.toFixed(3)}</span> to <span className="mono">{p.factor.hi.toFixed(3)}</span>:{" "}
                {(p.factor.why ?? []).join("; ")}.
              </p>
              <ul style={{ paddingLeft: 20 }}>
                {(p.schools ?? []).map((s) => (
                  <li key={s}>{s}</li>
                ))}
              </ul>
            </details>
          )}
        </div>
        <div className="stack noprint">
          <Picks
            legend="Antenna"
            name="family"
            value={v.family}
            onChange={(x) => {
              form.setValue("family", x, { shouldDirty: true });
              form.setValue("variant", reference.data?.families.find((f) => f.id === x)?.variants[0]?.id ?? "flat", { shouldDirty: true });
              localStorage.setItem(`draft:plan:${id}:${at}`, JSON.stringify(form.getValues()));
            }}
            options={reference.data.families.map((f) => ({
              id: f.id,
              label: (
                <>
                  <Sketch family={f.id} variant={f.variants[0]?.id ?? ""} />
                  {f.short}
                </>
              ),
            }))}
          />
          <div className="fields">
            <Choose form={form} name="variant" label="How it hangs" options={(family?.variants ?? []).map((x) => [x.id, x.name])} />
            <LengthField form={form} name="frequency" label="For, MHz" unit="MHz" kind="frequency" inputMode="decimal" />
            <Choose form={form} name="wire" label="Wire" className="full" options={reference.data.wires.map((w) => [w.id, w.name])} />
            <LengthField form={form} name="feed_height" label={`Feed point, ${unit} up`} unit={unit} help={usual(p?.shape.feed_height)} />
            {v.family !== "vertical" && (
              <LengthField form={form} name="far_height" label={`Far end, ${unit} up`} unit={unit} help={usual(p?.shape.far_height)} />
            )}
            {v.family !== "dipole" && (
              <LengthField form={form} name="pole_height" label={`Pole, ${unit}`} unit={unit} help={usual(p?.shape.pole_height)} />
            )}
            {v.family === "dipole" && v.variant === "inverted-v" && (
              <Field form={form} name="apex_angle" label="Angle between legs" inputMode="numeric" help="120 degrees" />
            )}
            {v.family === "end-fed" && (
              <Field form={form} name="half_waves" label="Half-waves" inputMode="numeric" help="2 for the second harmonic" />
            )}
            {v.family === "end-fed" && (
              <LengthField
                form={form}
                name="counterpoise"
                label={`Counterpoise, ${unit}`}
                unit={unit}
                help={usual(p?.shape.counterpoise?.length)}
              />
            )}
            {v.family === "end-fed" && <Field form={form} name="primary" label="Transformer turns" inputMode="numeric" help="2" />}
            {v.family === "end-fed" && <Field form={form} name="secondary" label="to turns" inputMode="numeric" help="14" />}
            {v.family === "vertical" && (
              <Field form={form} name="radials" label="Radials" inputMode="numeric" help={v.variant === "raised-radials" ? "4" : "8"} />
            )}
            {v.family === "vertical" && (
              <LengthField
                form={form}
                name="radial_length"
                label={`Radial length, ${unit}`}
                unit={unit}
                help={usual(p?.shape.radials?.length)}
              />
            )}
            {v.variant === "raised-radials" && (
              <LengthField
                form={form}
                name="radial_height"
                label={`Radial ends, ${unit} up`}
                unit={unit}
                help={usual(p?.shape.radials?.height)}
              />
            )}
            <LengthField form={form} name="knot" label={`Each knot, ${unit}`} unit={unit} help="8 cm" />
            <Field form={form} name="trim" label="To trim, %" inputMode="decimal" />
          </div>
          <div className="ruled stack">
            <Field form={form} name="name" label="Call it" help="a word that tells it from the others, like Heron" autoComplete="off" />
            <div className="row">
              <Button type="submit" variant="contained">
                {at === "new" ? "Keep this plan, then raise it" : "Keep this plan"}
              </Button>
              <Button variant="outlined" onClick={() => print()}>
                Print the cut list
              </Button>
              {at !== "new" && chosen.data && (
                <button
                  type="button"
                  className="linkbtn"
                  onClick={async () => {
                    const d = chosen.data.deployment;
                    await remove("deployment", d.id, d.version, `${d.name} is removed.`);
                    setAt("new");
                  }}
                >
                  Remove
                </button>
              )}
            </div>
            <span role="status">{told}</span>
          </div>
        </div>
      </div>
    </form>
  );
}
