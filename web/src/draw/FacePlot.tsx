import { ChartsContainer } from "@mui/x-charts/ChartsContainer";
import { ChartsGrid } from "@mui/x-charts/ChartsGrid";
import { ChartsXAxis } from "@mui/x-charts/ChartsXAxis";
import { ChartsYAxis } from "@mui/x-charts/ChartsYAxis";
import { LinePlot } from "@mui/x-charts/LineChart";
import type { Schemas } from "../api/client";
import { lettering } from "./axis";
import "./plot.css";

type Values = (number | null)[];

interface Face {
  label: string;
  values: Values;
  color: string;
  width: number;
}

function Lines({ mhz, faces, unit, title, lo, hi }: { mhz: number[]; faces: Face[]; unit: string; title: string; lo: number; hi: number }) {
  return (
    <figure role="img" aria-label={title}>
      <div aria-hidden="true">
        <ChartsContainer
          disableKeyboardNavigation
          height={340}
          skipAnimation
          margin={{ left: 4, right: 18, top: 8, bottom: 4 }}
          series={faces.map((x) => ({
            type: "line" as const,
            id: x.label,
            data: x.values.map((v) => (v === null ? null : Math.min(Math.max(v, lo), hi))),
            color: x.color,
            showMark: false,
            curve: "linear" as const,
          }))}
          xAxis={[
            {
              data: mhz,
              scaleType: "linear",
              min: mhz[0],
              max: mhz.at(-1),
              tickNumber: innerWidth < 600 ? 4 : 6,
              height: 52,
              label: "MHz",
            },
          ]}
          yAxis={[{ min: lo, max: hi, width: 58, label: unit }]}
          sx={{
            ...lettering,
            ...Object.fromEntries(faces.map((x) => [`& [data-series="${x.label}"]`, { strokeWidth: x.width, fill: "none" }])),
          }}
        >
          <ChartsGrid horizontal />
          <LinePlot />
          <ChartsXAxis />
          <ChartsYAxis />
        </ChartsContainer>
      </div>
      <ul className="keyline">
        {faces.map((x) => (
          <li key={x.label}>
            <svg viewBox="0 0 34 10" aria-hidden="true">
              <path d="M1 5H33" stroke={x.color} strokeWidth={x.width} />
            </svg>
            {x.label}
          </li>
        ))}
      </ul>
    </figure>
  );
}

const short = (hz: number, digits: number) => (hz / 1e6).toFixed(digits);

/** The scale that holds most of the values and zero, in even steps. */
function scale(values: Values[], least: number): [number, number] {
  const all = values
    .flat()
    .filter((v): v is number => v !== null)
    .sort((a, b) => a - b);
  if (all.length === 0) return [0, least];
  const step = least;
  const top = all[Math.floor(all.length * 0.97)] ?? least;
  const low = all[Math.floor(all.length * 0.03)] ?? 0;
  return [Math.min(0, Math.floor(low / step) * step), Math.max(step, Math.ceil(top / step) * step)];
}

/** Where constant R and constant X run on the disc of all reflections, radius 100. */
function Paper() {
  return (
    <g fill="none" stroke="var(--grid)" strokeWidth="0.5">
      {[0.2, 0.5, 1, 2, 5].map((r) => (
        <circle key={r} cx={(100 * r) / (1 + r)} cy="0" r={100 / (1 + r)} />
      ))}
      {[0.2, 0.5, 1, 2, 5].flatMap((x) =>
        [1, -1].map((s) => {
          // The arc of constant reactance, from the right end to where it meets the rim.
          const re = (x * x - 1) / (x * x + 1);
          const im = (2 * x) / (x * x + 1);
          return <path key={`${x} ${s}`} d={`M100 0A${100 / x} ${100 / x} 0 0 ${s > 0 ? 1 : 0} ${100 * re} ${-100 * im * s}`} />;
        }),
      )}
      <path d="M-100 0H100" />
    </g>
  );
}

/** The reflection on its disc: the middle is a match, the rim reflects all. */
export function Disc({
  re,
  im,
  mhz,
  own,
  limit,
  at,
  title,
}: {
  re: Values;
  im: Values;
  mhz: number[];
  own: Schemas["Segment"][];
  limit: number;
  at: number;
  title: string;
}) {
  const path = (keep: (f: number) => boolean) => {
    let out = "";
    let pen = false;
    mhz.forEach((f, i) => {
      const [x, y] = [re[i], im[i]];
      if (x == null || y == null || !keep(f)) {
        pen = false;
        return;
      }
      out += `${pen ? "L" : "M"}${(100 * x).toFixed(2)} ${(-100 * y).toFixed(2)}`;
      pen = true;
    });
    return out;
  };
  const mine = (f: number) => own.some((s) => f * 1e6 >= s.lo && f * 1e6 <= s.hi);
  const best = mhz.reduce((b, f, i) => (Math.abs(f - at) < Math.abs((mhz[b] ?? 0) - at) ? i : b), 0);
  const [bx, by] = [re[best], im[best]];
  return (
    <figure className="disc" role="img" aria-label={title}>
      <svg viewBox="-112 -108 224 216" aria-hidden="true">
        <circle r="100" fill="var(--card)" stroke="var(--older)" strokeWidth="0.8" />
        <circle r={(100 * (limit - 1)) / (limit + 1)} fill="var(--wash)" stroke="var(--reed)" strokeWidth="0.7" strokeDasharray="1.5 2.5" />
        <Paper />
        <path d={path(() => true)} fill="none" stroke="var(--copper)" strokeWidth="1.1" />
        <path d={path(mine)} fill="none" stroke="var(--copper)" strokeWidth="2.8" strokeLinecap="round" />
        {bx != null && by != null && (
          <circle cx={100 * bx} cy={-100 * by} r="3" fill="var(--card)" stroke="var(--copper)" strokeWidth="1.4" />
        )}
        <g fontSize="6" fill="var(--ink)" className="mono">
          <text x="-109" y="-3">
            0
          </text>
          <text x="1.5" y="-2">
            50
          </text>
          <text x="103" y="-3">
            ∞
          </text>
          <text x="0" y="-102" textAnchor="middle">
            +j50
          </text>
          <text x="0" y="107" textAnchor="middle">
            −j50
          </text>
        </g>
      </svg>
      <figcaption className="small">
        The middle is a match at 50 Ω, the rim reflects all. Inside the dotted ring SWR is under {limit}; the thick part is your segment,
        the ring the lowest SWR.
      </figcaption>
    </figure>
  );
}

/** A sweep's other faces: R and X, return loss, or the reflection itself. */
export default function FacePlot({
  face,
  of,
  frequencies,
  own,
  limit,
  at,
  name,
}: {
  face: string;
  of: Schemas["Quantities"];
  frequencies: number[];
  own: Schemas["Segment"][];
  limit: number;
  at: number;
  name: string;
}) {
  const mhz = frequencies.map((f) => f / 1e6);
  const where = of.at === "feed" ? "at the feed point" : "at the radio";
  if (face === "loss") {
    const [lo, hi] = scale([of.loss_db], 10);
    return (
      <Lines
        mhz={mhz}
        unit="return loss, dB"
        lo={lo}
        hi={Math.min(hi, 50)}
        title={`Return loss of ${name}`}
        faces={[{ label: `return loss, measured ${where}`, values: of.loss_db, color: "var(--copper)", width: 3.4 }]}
      />
    );
  }
  if (of.r.every((v) => v === null)) return <p className="note">Only SWR was measured here: R, X and the phase are not known.</p>;
  if (face === "disc")
    return <Disc re={of.re} im={of.im} mhz={mhz} own={own} limit={limit} at={at / 1e6} title={`Reflection of ${name} ${where}`} />;
  const [lo, hi] = scale([of.r, of.x], 50);
  return (
    <Lines
      mhz={mhz}
      unit="ohm"
      lo={lo}
      hi={hi}
      title={`R and X of ${name}`}
      faces={[
        { label: `R, measured ${where}`, values: of.r, color: "var(--copper)", width: 3.4 },
        { label: "X", values: of.x, color: "var(--ink)", width: 2 },
      ]}
    />
  );
}

/** One sweep over everything: where it dips, with the names of the bands below. */
export function OverviewPlot({ of, bands }: { of: Schemas["Overview"]; bands: Schemas["Band"][] }) {
  const [w, h] = [1000, 190];
  const [f0, f1] = [of.frequencies[0] ?? 1, of.frequencies.at(-1) ?? 1];
  const x = (f: number) => (w * Math.log(f / f0)) / Math.log(f1 / f0);
  const y = (swr: number) => 150 - 138 * Math.log10(Math.min(Math.max(swr, 1), 10));
  return (
    <figure
      className="overview"
      role="img"
      aria-label={`SWR from ${short(f0, 1)} to ${short(f1, 0)} MHz: dips at ${of.dips.map((d) => short(d.f, 2)).join(", ")} MHz`}
    >
      <div className="scroll">
        <svg viewBox={`0 0 ${w} ${h}`} aria-hidden="true">
          {bands.map((b) => (
            <g key={b.name}>
              <rect x={x(b.lo)} y="6" width={Math.max(x(b.hi) - x(b.lo), 2)} height="144" fill="var(--wash)" />
              <text x={x((b.lo + b.hi) / 2)} y="168" fontSize="13" textAnchor="middle" fill="var(--ink)">
                {b.name.replace("m", "")}
              </text>
            </g>
          ))}
          {[1, 2, 5].map((v) => (
            <g key={v}>
              <path d={`M0 ${y(v)}H${w}`} stroke="var(--grid)" strokeWidth="1" />
              <text x="2" y={y(v) - 4} fontSize="13" fill="var(--soft)" className="mono">
                {v}
              </text>
            </g>
          ))}
          <path
            d={`M${of.frequencies.map((f, i) => `${x(f).toFixed(1)} ${y(of.swr[i] ?? 10).toFixed(1)}`).join("L")}`}
            fill="none"
            stroke="var(--copper)"
            strokeWidth="2.2"
          />
          <text x="0" y="186" fontSize="12" fill="var(--soft)">
            bands in metres
          </text>
        </svg>
      </div>
      <figcaption className="small">
        {of.dips.length === 0 ? "No dip under SWR 5." : "Dips under SWR 5: "}
        {of.dips.map((d, i) => (
          <span key={d.f}>
            {i > 0 && ", "}
            <span className="mono">{(d.f / 1e6).toFixed(2)}</span> MHz ({d.swr.toFixed(1)})
          </span>
        ))}
      </figcaption>
    </figure>
  );
}
