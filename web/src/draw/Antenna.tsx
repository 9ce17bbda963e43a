import type { Schemas } from "../api/client";
import type { Drawing, Line, Scene } from "./scene";

const widths: Record<string, number> = { radiator: 3.4, loop: 3.4, pole: 1.6, string: 1.6, fence: 1.4 };

function colour(role: string, dashed: boolean) {
  if (role === "string" || role === "fence") return "var(--older)";
  if (dashed) return "var(--tide)";
  return role === "pole" ? "var(--ink)" : "var(--copper)";
}

/** The ground that it stands on. */
export function Ground({ of: { size, ground } }: { of: Scene }) {
  return (
    <>
      <path d={`M10 ${ground}H${size - 10}`} stroke="var(--older)" strokeWidth="2" />
      {Array.from({ length: Math.floor(size / 30) }, (_, i) => (
        <path key={i} d={`M${24 + i * 29} ${ground + 1}l-7 8`} stroke="var(--hairline)" strokeWidth="1.5" />
      ))}
    </>
  );
}

function Wire({ of: l, scene, dashed }: { of: Line; scene: Scene; dashed: boolean }) {
  const { at, above } = scene;
  if (above && l.role === "pole") return <circle cx={at(l.to)[0]} cy={at(l.to)[1]} r="4" stroke="var(--ink)" strokeWidth="1.6" />;
  return (
    <path
      d={`M${at(l.from).map((v) => v.toFixed(1))}L${at(l.to).map((v) => v.toFixed(1))}`}
      stroke={colour(l.role, dashed)}
      strokeWidth={widths[l.role] ?? 2}
      strokeDasharray={l.role === "string" ? "1 4" : dashed && l.role !== "fence" ? "7 5" : undefined}
    />
  );
}

function Spot({ of: s, scene, dashed }: { of: Schemas["Spot"]; scene: Scene; dashed: boolean }) {
  const [x, y] = scene.at(s.at);
  const ink = dashed ? "var(--tide)" : "var(--copperText)";
  if (s.kind === "forward") return <path d={`M${x} ${y + 12}V${y - 12}m-5 6l5 -6l5 6`} stroke="var(--ink)" strokeWidth="1.6" />;
  if (s.kind === "coil" || s.kind === "winding")
    return <path d={`M${x - 9} ${y}q2 -9 4.5 0t4.5 0t4.5 0t4.5 0`} stroke={ink} strokeWidth="2.4" />;
  return <circle cx={x} cy={y} r="4.5" fill="var(--paper)" stroke={ink} strokeWidth="2" />;
}

/** The wires, what is on them, and the feed. */
export function Antenna({ of: d, scene, dashed = false }: { of: Drawing; scene: Scene; dashed?: boolean }) {
  const [x, y] = scene.at(d.feed);
  return (
    <g fill="none" strokeLinecap="round">
      {(d.lines ?? []).map((l, i) => (
        <Wire key={`${l.role}${i}`} of={l} scene={scene} dashed={dashed} />
      ))}
      {(d.spots ?? []).map((s, i) => (
        <Spot key={i} of={s} scene={scene} dashed={dashed} />
      ))}
      <rect
        x={x - 5}
        y={y - 5}
        width="10"
        height="10"
        fill={dashed ? "var(--paper)" : "var(--ink)"}
        stroke={dashed ? "var(--tide)" : "var(--ink)"}
        strokeWidth="1.6"
      />
    </g>
  );
}

const halo = { stroke: "var(--paper)", strokeWidth: 4, paintOrder: "stroke" };

/** The lengths along the wires; what would stand on another, or says the same, is left out. */
export function Lengths({ of, scene, imperial, ink }: { of: Drawing; scene: Scene; imperial: boolean; ink: string }) {
  const { at, size } = scene;
  const taken = new Set<string>();
  return (of.lines ?? [])
    .filter((l) => (l.size?.m ?? 0) > 0)
    .map((l, i) => {
      const text = (imperial ? l.size?.imperial : l.size?.metric) ?? "";
      const [[ax, ay], [bx, by]] = [at(l.from), at(l.to)];
      const spot = `${Math.round((ax + bx) / 40)},${Math.round((ay + by) / 40)}`;
      if (taken.has(spot) || taken.has(l.role + text)) return null;
      taken.add(spot).add(l.role + text);
      const upright = Math.abs(bx - ax) < 24;
      const short = Math.hypot(bx - ax, by - ay) < 60;
      const aside = upright || short;
      let turn = (Math.atan2(by - ay, bx - ax) * 180) / Math.PI;
      if (turn > 90 || turn < -90) turn += 180;
      const end = (ax + bx) / 2 > size - 110;
      return (
        <text
          key={`${text}${i}`}
          x={(ax + bx) / 2 + (aside ? (end ? -12 : 12) : 0)}
          y={(ay + by) / 2 + (upright ? 5 : short ? 18 : -10)}
          transform={aside ? undefined : `rotate(${turn} ${(ax + bx) / 2} ${(ay + by) / 2})`}
          textAnchor={aside ? (end ? "end" : "start") : "middle"}
          className="mono"
          fontSize="16"
          fontWeight="700"
          fill={l.role === "radiator" || l.role === "loop" ? ink : "var(--ink)"}
          {...halo}
        >
          {text}
        </text>
      );
    });
}

/** What stands at its places in words, each once. */
export function Words({ of, scene }: { of: Drawing; scene: Scene }) {
  const spots = of.spots ?? [];
  return spots.map((s, i) => {
    const [x, y] = scene.at(s.at);
    if (!s.text || spots.findIndex((o) => o.text === s.text) !== i) return null;
    const end = x > scene.size - 90;
    return (
      <text
        key={`${s.text}${i}`}
        x={x + (end ? -12 : 12)}
        y={y + (s.kind === "forward" ? 5 : s.kind === "link" ? 21 + (i % 2) * 15 : -10)}
        textAnchor={end ? "end" : "start"}
        fontSize="14"
        fill="var(--ink)"
        {...halo}
      >
        {s.text}
      </text>
    );
  });
}

/** How long a length is here, in the operator's unit. */
export function ScaleBar({ of: { above, height, scale }, imperial }: { of: Scene; imperial: boolean }) {
  const foot = imperial ? 0.3048 : 1;
  const step = [0.2, 0.5, 1, 2, 5, 10, 20, 50].find((s) => s * foot * scale > 46) ?? 100;
  const bar = step * foot * scale;
  return (
    <g transform={`translate(16 ${height - 14})`} stroke="var(--ink)" fill="none" strokeWidth="1.5">
      <path d={`M0 -4V4M0 0H${bar}M${bar} -4V4`} />
      <text x={bar + 8} y="5" fontSize="14" fill="var(--ink)" stroke="none">
        {step} {imperial ? "ft" : "m"}
        {above ? ", from above" : ""}
      </text>
    </g>
  );
}
