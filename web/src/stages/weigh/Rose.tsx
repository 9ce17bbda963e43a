import { scaleLinear } from "d3-scale";
import { arc, curveLinearClosed, lineRadial } from "d3-shape";
import type { Schemas } from "../../api/client";
import { metres, signed } from "../../draw/numbers";

type Band = Schemas["ForetoldBand"];

const rad = (deg: number) => (deg * Math.PI) / 180;
const half = rad(17);

/** Where the figure of a ring stands: between two parts of the compass. */
const label = (r: number) => ({
  x: Math.sin(rad(22.5)) * r,
  y: -Math.cos(rad(22.5)) * r,
  fontSize: 12,
  className: "mono",
  fill: "var(--ink)",
  paintOrder: "stroke",
  stroke: "var(--paper)",
  strokeWidth: 4,
});

/** All round: the difference that the models foretell as a line, and what the air says by parts of the compass. On the dashed ring both
 * antennas are the same; outside it the first is stronger. */
export function Rose({ of: b, names }: { of: Band; names: [string, string] }) {
  if (b.rose.length === 0) return null;
  const size = 400;
  const most = size / 2 - 34;
  const values = [...b.rose.map((p) => p.db), ...b.sectors.map((s) => s.difference_db ?? 0)].map((v) => Math.max(-30, Math.min(30, v)));
  const r = scaleLinear([Math.min(-6, ...values) - 3, Math.max(6, ...values) + 2], [0, most]).nice();
  const [least = 0, top = 0] = r.domain();
  const at = (v: number) => r(Math.max(least, Math.min(top, v)));
  const rings = r.ticks(4).filter((t) => t > least && t < top && t !== 0);
  const model = lineRadial<Schemas["ForetoldBand"]["rose"][number]>()
    .angle((p) => rad(p.bearing))
    .radius((p) => at(p.db))
    .curve(curveLinearClosed);
  const band = (from: number, until: number, bearing: number) =>
    arc()({ innerRadius: at(from), outerRadius: at(until), startAngle: rad(bearing) - half, endAngle: rad(bearing) + half }) ?? "";
  const told = b.sectors.map((s) => `${s.bearing.toFixed(0)} degrees ${(s.difference_db ?? 0).toFixed(1)} dB by ${s.receivers}`).join("; ");
  return (
    <figure>
      <svg
        viewBox={`${-size / 2} ${-size / 2} ${size} ${size}`}
        width="100%"
        style={{ maxWidth: size }}
        role="img"
        aria-label={`All round on ${metres(b.band)}: ${told || "nothing heard by parts"}`}
      >
        {rings.map((t) => (
          <g key={t}>
            <circle r={r(t)} fill="none" stroke="var(--hairline)" />
            <text {...label(r(t))}>{signed(t, 0)}</text>
          </g>
        ))}
        <circle r={r(0)} fill="none" stroke="var(--ink)" strokeWidth="2" strokeDasharray="2 5" />
        <text {...label(r(0))}>0 dB</text>
        {["N", "E", "S", "W"].map((n, i) => (
          <text
            key={n}
            x={Math.sin(rad(i * 90)) * (most + 18)}
            y={6 - Math.cos(rad(i * 90)) * (most + 18)}
            textAnchor="middle"
            fontSize="16"
          >
            {n}
          </text>
        ))}
        <path d={model(b.rose) ?? ""} fill="none" stroke="var(--ink)" strokeWidth="2.5" />
        {b.sectors.map((s) => {
          const [lo, hi, x] = [s.lo_db ?? s.difference_db ?? 0, s.hi_db ?? s.difference_db ?? 0, s.difference_db ?? 0];
          const sure = s.lo_db !== null && (lo > 0 || hi < 0);
          return (
            <g key={s.bearing}>
              <path d={band(lo, hi, s.bearing)} fill="none" stroke="var(--ink)" strokeWidth="1.2" strokeDasharray="3 2" />
              <circle
                cx={Math.sin(rad(s.bearing)) * at(x)}
                cy={-Math.cos(rad(s.bearing)) * at(x)}
                r="6"
                fill={sure ? "var(--ink)" : "var(--paper)"}
                stroke="var(--ink)"
                strokeWidth="2.5"
              />
              <text
                x={Math.sin(rad(s.bearing)) * at(x) + 10}
                y={5 - Math.cos(rad(s.bearing)) * at(x)}
                fontSize="13"
                className="mono"
                fill="var(--ink)"
              >
                {s.receivers}
              </text>
            </g>
          );
        })}
      </svg>
      <figcaption className="small soft">
        {metres(b.band)}, all round: the line is the prediction at {b.elevation.toFixed(0)}° elevation, outside the dashed ring for{" "}
        {names[0]}, inside for {names[1]}. Dots are on-air reports in that direction, with the number of receivers; filled for a clear
        difference. The dashed patch is the interval.
      </figcaption>
    </figure>
  );
}
