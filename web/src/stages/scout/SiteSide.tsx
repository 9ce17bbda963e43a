import type { Schemas } from "../../api/client";
import { useWide } from "../../parts/Fold";

type Spot = [number, number];

/** The site from the side, seen across the antenna: its wires at their heights, and what stands beside it. */
export function SiteSide({ map, chosen }: { map?: Schemas["SiteMap"]; chosen?: Schemas["ScoutCandidate"] }) {
  const w = useWide() ? 600 : 360;
  const p = chosen?.placement;
  if (!p) return null;
  const a = (p.bearing * Math.PI) / 180;
  const at = p.at as Spot;
  const along = (s: Spot) => (s[0] - at[0]) * Math.sin(a) + (s[1] - at[1]) * Math.cos(a);
  const holds = (map?.things ?? []).filter((t) => ["tree", "post", "mast"].includes(t.kind) && Math.abs(along(t.points[0] as Spot)) < 40);
  const xs = [...p.lines.flatMap((l) => [along(l.from as Spot), along(l.to as Spot)]), ...holds.map((t) => along(t.points[0] as Spot)), 0];
  const zs = [...p.lines.flatMap((l) => [l.from_m, l.to_m]), ...holds.map((t) => t.stands_m), 3];
  const [lo, hi, top] = [Math.min(...xs) - 1, Math.max(...xs) + 1, Math.max(...zs) * 1.15];
  const k = Math.min((w - 60) / (hi - lo), 150 / top);
  const h = top * k + 26;
  const x = (m: number) => w / 2 + (m - (lo + hi) / 2) * k;
  const y = (m: number) => h - 22 - m * k;
  const step = [1, 2, 5, 10].find((m) => m * k > 24) ?? 10;
  return (
    <figure>
      <svg viewBox={`0 0 ${w} ${h}`} width="100%" className="site" role="img" aria-label={`From the side, along ${p.bearing} degrees`}>
        <path d={`M0 ${y(0)}H${w}`} className="site-line" />
        {Array.from({ length: Math.floor(top / step) }, (_, i) => (i + 1) * step).map((m) => (
          <g key={m}>
            <path d={`M30 ${y(m)}H${w}`} className="site-rule" />
            <text x="26" y={y(m) + 5} textAnchor="end" className="site-text mono">
              {m}
            </text>
          </g>
        ))}
        {holds.map((t) => (
          <path
            key={t.line}
            d={`M${x(along(t.points[0] as Spot))} ${y(0)}V${y(t.stands_m)}m-12 6q12 -16 24 0`}
            className={t.kind === "tree" ? "site-trunk" : "site-line"}
          />
        ))}
        {p.lines.map((l, i) => {
          const d = `M${x(along(l.from as Spot))} ${y(l.from_m)}L${x(along(l.to as Spot))} ${y(l.to_m)}`;
          const kind = l.role === "string" ? "site-string" : l.role === "pole" ? "site-pole" : "site-wire";
          return <path key={i} d={d} className={kind} />;
        })}
        <text x={w - 4} y={h - 5} textAnchor="end" className="site-text">
          metres up, along {p.bearing}°
        </text>
      </svg>
    </figure>
  );
}
