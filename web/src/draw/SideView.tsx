import type { Schemas } from "../api/client";

type Drawing = Schemas["Drawing"];
type P = [number, number];

const size = 720;

/** The set-up from the side, to scale. Built is drawn solid in copper, planned dashed in tide. */
export function SideView({
  built,
  planned,
  labels,
  imperial,
}: {
  built?: Drawing;
  planned?: Drawing;
  labels?: { text: string; role: string }[];
  imperial?: boolean;
}) {
  const all = [...(built?.lines ?? []), ...(planned?.lines ?? [])];
  if (all.length === 0) return null;
  const xs = all.flatMap((l) => [l.from[0] ?? 0, l.to[0] ?? 0]);
  const zs = all.flatMap((l) => [l.from[2] ?? 0, l.to[2] ?? 0]);
  const [x0, x1] = [Math.min(...xs), Math.max(...xs)];
  const top = Math.max(...zs, 3);
  const scale = Math.min((size - 90) / Math.max(x1 - x0, 1), 250 / top);
  const left = (size - (x1 - x0) * scale) / 2;
  const ground = top * scale + 34;
  const height = ground + 44;
  const at = (p: number[]): P => [left + ((p[0] ?? 0) - x0) * scale, ground - (p[2] ?? 0) * scale];
  const path = (l: Schemas["Line"]) => `M${at(l.from).map((v) => v.toFixed(1))}L${at(l.to).map((v) => v.toFixed(1))}`;
  const drawn = (d: Drawing, dashed: boolean) => (
    <g fill="none" strokeLinecap="round">
      {(d.lines ?? []).map((l, i) => {
        const thin = l.role === "string" || l.role === "pole";
        const stroke = dashed ? "var(--tide)" : l.role === "string" ? "var(--older)" : l.role === "pole" ? "var(--ink)" : "var(--copper)";
        const width = l.role === "radiator" ? 3.4 : thin ? 1.6 : 2;
        return (
          <path
            key={`${l.role}${i}`}
            d={path(l)}
            stroke={stroke}
            strokeWidth={width}
            strokeDasharray={dashed ? "7 5" : l.role === "string" ? "1 4" : undefined}
          />
        );
      })}
      <rect
        x={at(d.feed)[0] - 5}
        y={at(d.feed)[1] - 5}
        width="10"
        height="10"
        fill={dashed ? "var(--paper)" : "var(--ink)"}
        stroke={dashed ? "var(--tide)" : "var(--ink)"}
        strokeWidth="1.6"
      />
    </g>
  );
  const main = built ?? planned;
  const wires = (main?.lines ?? []).filter((l) => l.role === "radiator");
  const foot = imperial ? 0.3048 : 1;
  const step = [1, 2, 5, 10, 20, 50].find((s) => s * foot * scale > 46) ?? 100;
  const bar = step * foot * scale;
  return (
    <figure>
      <svg
        viewBox={`0 0 ${size} ${height}`}
        width="100%"
        role="img"
        aria-label={`Side view to scale: ${labels?.map((l) => l.text).join(", ") ?? ""}`}
      >
        <path d={`M10 ${ground}H${size - 10}`} stroke="var(--older)" strokeWidth="2" />
        {Array.from({ length: 24 }, (_, i) => (
          <path key={i} d={`M${24 + i * 29} ${ground + 1}l-7 8`} stroke="var(--hairline)" strokeWidth="1.5" />
        ))}
        {planned && drawn(planned, true)}
        {built && drawn(built, false)}
        {wires.map((l, i) => {
          const text = labels?.filter((x) => x.role === "radiator")[i]?.text;
          if (!text) return null;
          const [[ax, ay], [bx, by]] = [at(l.from), at(l.to)];
          const upright = Math.abs(bx - ax) < 24;
          let turn = (Math.atan2(by - ay, bx - ax) * 180) / Math.PI;
          if (turn > 90 || turn < -90) turn += 180;
          return (
            <text
              key={text + String(i)}
              x={(ax + bx) / 2 + (upright ? 14 : 0)}
              y={(ay + by) / 2 - (upright ? 0 : 10)}
              transform={upright ? undefined : `rotate(${turn} ${(ax + bx) / 2} ${(ay + by) / 2})`}
              textAnchor={upright ? "start" : "middle"}
              className="mono"
              fontSize="17"
              fontWeight="700"
              fill={built ? "var(--copper-text)" : "var(--tide)"}
            >
              {text}
            </text>
          );
        })}
        <g transform={`translate(16 ${height - 16})`} stroke="var(--ink)" fill="none" strokeWidth="1.5">
          <path d={`M0 -4V4M0 0H${bar}M${bar} -4V4`} />
          <text x={bar + 8} y="5" fontSize="14" fill="var(--ink)" stroke="none">
            {step} {imperial ? "ft" : "m"}
          </text>
        </g>
      </svg>
    </figure>
  );
}
