import Button from "@mui/material/Button";
import { useMemo, useState } from "react";
import { useForm } from "react-hook-form";
import { useNavigate, useParams } from "react-router";
import { type Schemas, useReference } from "../../api/client";
import { send } from "../../api/outbox";
import { Below } from "../../parts/Below";
import { showTrouble, useFormDraft } from "../../parts/draft";
import { useWide } from "../../parts/Fold";
import { Choose, Field, LengthField } from "../../parts/fields";

type Form = { name: string; date: string; place: string; ground: string; scheme: string; own_ref: string; until: string; notes: string };

const utc = (at?: string) => (at ? new Date(at).toISOString().slice(11, 16) : "");

/** The UTC day as a strip: night, daylight, the gate, now. Drawn for the room that there is, so that its lettering keeps its size. */
function DayStrip({ outing }: { outing: Schemas["OutingDetail"] }) {
  const wide = useWide();
  const width = wide ? 1070 : 358;
  const midnight = Date.parse(`${outing.outing.date}T00:00:00Z`);
  const x = (at: string | number) => 10 + ((new Date(at).getTime() - midnight) / 86400000) * (width - 20);
  const inside = (at: number) => Math.min(Math.max(at, 62), width - 62);
  const sun = outing.sun;
  const now = Date.now();
  const day = sun?.up ? [10, width - 10] : sun?.rise && sun.set ? [x(sun.rise), x(sun.set)] : [10, 10];
  const [rise = 10, set = 10] = day;
  const gate = outing.until ? x(outing.until) : undefined;
  return (
    <svg
      viewBox={`0 0 ${width} 112`}
      width="100%"
      role="img"
      aria-label={`Day in UTC: sunrise ${utc(sun?.rise)}, sunset ${utc(sun?.set)}${outing.until ? `, gate ${utc(outing.until)}` : ""}`}
    >
      <rect x="10" y="34" width={width - 20} height="44" fill="var(--soft)" opacity="0.42" />
      <rect x={rise} y="34" width={set - rise} height="44" fill="var(--straw)" opacity="0.55" />
      <rect x="10" y="34" width={width - 20} height="44" fill="none" stroke="var(--ink)" strokeWidth="1.2" />
      {(wide ? [0, 3, 6, 9, 12, 15, 18, 21, 24] : [0, 6, 12, 18, 24]).map((h) => (
        <g key={h}>
          <path d={`M${10 + (h * (width - 20)) / 24} 78v6`} stroke="var(--ink)" />
          <text
            x={10 + (h * (width - 20)) / 24}
            y="100"
            textAnchor={h === 0 ? "start" : h === 24 ? "end" : "middle"}
            fontSize="16"
            className="mono"
            fill="var(--ink)"
          >
            {String(h).padStart(2, "0")}
          </text>
        </g>
      ))}
      {sun?.rise && (
        <text x={inside(rise)} y="24" textAnchor="middle" fontSize="16" fill="var(--ink)">
          sunrise <tspan className="mono">{utc(sun.rise)}</tspan>
        </text>
      )}
      {sun?.set && (
        <text x={inside(set)} y="24" textAnchor="middle" fontSize="16" fill="var(--ink)">
          sunset <tspan className="mono">{utc(sun.set)}</tspan>
        </text>
      )}
      {gate !== undefined && (
        <g>
          <path d={`M${gate} 30V84`} stroke="var(--clay)" strokeWidth="3" />
          <text x={gate - 8} y="62" textAnchor="end" fontSize="16" fontWeight="700" fill="var(--ink)">
            gate {utc(outing.until)}
          </text>
        </g>
      )}
      {now > midnight && now < midnight + 86400000 && (
        <path d={`M${x(now)} 28V84`} stroke="var(--copper)" strokeWidth="3" strokeDasharray="3 3" />
      )}
    </svg>
  );
}

export function OutingForm({ outing }: { outing?: Schemas["OutingDetail"] }) {
  const { outing: id = "" } = useParams();
  const go = useNavigate();
  const reference = useReference();
  const o = outing?.outing;
  const from = useMemo<Form>(
    () => ({
      name: o?.name ?? "",
      date: o?.date ?? new Date().toISOString().slice(0, 10),
      place: o?.place ?? "",
      ground: o?.ground ?? "average",
      scheme: o?.scheme ?? "ten-a-day",
      own_ref: o?.own_ref ?? "",
      until: o?.until ?? "",
      notes: o?.notes ?? "",
    }),
    [o],
  );
  const form = useForm<Form>({ defaultValues: from });
  const { forget, base } = useFormDraft(form, o ? `outing:${id}` : "outing:new", from, o?.version);
  const [told, setTold] = useState("");
  const save = form.handleSubmit(async (v) => {
    setTold("");
    try {
      const done = await send("put", "/api/outings/{id}", { id: id }, { ...v, name: v.name.trim() }, `Outing ${v.name}`, base());
      forget(done?.outing.version);
      setTold(done ? "Kept." : "The link is down: kept here, and sent when it is back.");
      if (!o && done) void go(`/o/${id}/cut`);
    } catch (e) {
      setTold(showTrouble(form, e));
    }
  });
  return (
    <form onSubmit={save} noValidate className="stack">
      <div className="fields">
        <Field form={form} name="name" label="Name" autoFocus={!o} help="the place or the day" />
        <Field form={form} name="date" label="Date, UTC" help="like 2026-05-16" inputMode="numeric" />
        <LengthField form={form} name="place" label="Place" className="full" unit="" kind="place" help="IN36ab, or 46.5 N 12.0 W" />
        <Choose form={form} name="ground" label="Ground" options={(reference.data?.grounds ?? []).map((g) => [g.id, g.name])} />
        <Choose
          form={form}
          name="scheme"
          label="It counts with"
          help="the rule of what counts"
          options={(reference.data?.schemes ?? []).map((s) => [s.id, s.name])}
        />
        <Field form={form} name="own_ref" label="Your site reference" help="if it has one" autoComplete="off" />
        <Field form={form} name="until" label="Gate, tide or curfew, UTC" help="like 19:30" inputMode="numeric" />
      </div>
      <Field
        form={form}
        name="notes"
        label="What is there"
        multiline
        minRows={3}
        help="supports, stakes allowed, metal, where people walk, power lines"
      />
      <div>
        <Button type="submit" variant="contained">
          {o ? "Keep these" : "Keep it and plan an antenna"}
        </Button>{" "}
        <span role="status">{told}</span>
      </div>
    </form>
  );
}

export default function Scout({ outing }: { outing: Schemas["OutingDetail"] }) {
  const { sun } = outing;
  const line = sun?.up
    ? "The sun does not set."
    : sun?.down
      ? "The sun does not rise."
      : sun?.set
        ? `Daylight until ${utc(sun.set)} UTC.`
        : "No place yet, so no sunset.";
  return (
    <>
      <div className="say">
        <h1>
          {line} {outing.until && `The gate is at ${utc(outing.until)}.`}
        </h1>
        <p>
          Look up before you choose a spot: no power line inside the circle in which a pole or wire may fall. Where the land's owner or
          local rules say no, the answer is no.
        </p>
      </div>
      {outing.lat !== undefined && <DayStrip outing={outing} />}
      <Below>
        <OutingForm outing={outing} />
      </Below>
    </>
  );
}
