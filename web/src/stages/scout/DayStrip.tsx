import type { Schemas } from "../../api/client";
import { useWide } from "../../parts/Fold";

export const utc = (at?: string) => (at ? new Date(at).toISOString().slice(11, 16) : "");

/** The UTC day as a strip: night, daylight, the gate, now. Drawn for the room that there is, so that its lettering keeps its size. */
export function DayStrip({ outing }: { outing: Schemas["OutingDetail"] }) {
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
