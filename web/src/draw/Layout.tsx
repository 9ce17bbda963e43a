import { type PointerEvent, useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";

type Drawing = Schemas["Drawing"];
type P = [number, number];
/** A place in the drawing that can be taken and moved up and down: a height in metres. */
export type Handle = { id: string; at: number[]; label: string };

/** The width in pixels that there is, so that lettering keeps its size on every screen. */
function useWidth(usual: number) {
  const box = useRef<HTMLElement>(null);
  const [width, set] = useState(usual);
  useEffect(() => {
    const el = box.current;
    if (!el) return;
    const see = new ResizeObserver(() => set(Math.max(280, Math.round(el.clientWidth))));
    see.observe(el);
    return () => see.disconnect();
  }, []);
  return [box, width] as const;
}

/** What of the drawing a field is of: a role of its lines, or the place of a height. */
const figureOf: [RegExp, string][] = [
  [/^(radiator|leg_b|whip|mast|tail|coil_at)$/, "radiator"],
  [/^feed_height$/, "feed"],
  [/^far_height$/, "far"],
  [/^pole_height$/, "pole"],
  [/^counterpoise/, "counterpoise"],
  [/^radials/, "radial"],
];

const widths: Record<string, number> = { radiator: 3.4, loop: 3.4, pole: 1.6, string: 1.6, fence: 1.4 };

/** The set-up to scale, from the side or from above. Built is drawn solid in copper, planned dashed in tide. */
export function Layout({
  built,
  planned,
  imperial,
  handles = [],
  faults = [],
  onMove,
}: {
  faults?: Schemas["Fault"][];
  built?: Drawing;
  planned?: Drawing;
  imperial?: boolean;
  handles?: Handle[];
  onMove?: (id: string, metres: number) => void;
}) {
  const [box, size] = useWidth(720);
  const [held, setHeld] = useState<{ id: string; scale: number; ground: number; y: number }>();
  const svg = useRef<SVGSVGElement>(null);
  const main = built ?? planned;
  const all = [...(built?.lines ?? []), ...(planned?.lines ?? [])];
  if (!main || all.length === 0) return null;
  const above = main.view === "top";
  const flat = (p: number[]): P => [p[0] ?? 0, above ? -(p[1] ?? 0) : (p[2] ?? 0)];
  const shown = above ? all.filter((l) => l.role !== "pole") : all;
  const xs = shown.flatMap((l) => [flat(l.from)[0], flat(l.to)[0]]);
  const ys = shown.flatMap((l) => [flat(l.from)[1], flat(l.to)[1]]);
  const [x0, x1] = [Math.min(...xs), Math.max(...xs)];
  const low = above ? Math.min(...ys) : 0;
  const top = above ? Math.max(...ys) : Math.max(...ys, 1.5);
  const tall = Math.min(320, Math.max(220, size * 0.5));
  const scale = Math.min((size - 84) / Math.max(x1 - x0, 1), tall / Math.max(top - low, 0.5));
  const left = (size - (x1 - x0) * scale) / 2;
  const ground = (top - low) * scale + 36;
  const height = ground + 46;
  const at = (p: number[]): P => [left + (flat(p)[0] - x0) * scale, ground - (flat(p)[1] - low) * scale];
  const path = (l: Schemas["Line"]) => `M${at(l.from).map((v) => v.toFixed(1))}L${at(l.to).map((v) => v.toFixed(1))}`;
  const colour = (role: string, dashed: boolean) =>
    role === "string" || role === "fence" ? "var(--older)" : dashed ? "var(--tide)" : role === "pole" ? "var(--ink)" : "var(--copper)";
  const drawn = (d: Drawing, dashed: boolean) => (
    <g fill="none" strokeLinecap="round">
      {(d.lines ?? []).map((l, i) =>
        above && l.role === "pole" ? (
          <circle key={`pole${i}`} cx={at(l.to)[0]} cy={at(l.to)[1]} r="4" stroke="var(--ink)" strokeWidth="1.6" />
        ) : (
          <path
            key={`${l.role}${i}`}
            d={path(l)}
            stroke={colour(l.role, dashed)}
            strokeWidth={widths[l.role] ?? 2}
            strokeDasharray={l.role === "string" ? "1 4" : dashed && l.role !== "fence" ? "7 5" : undefined}
          />
        ),
      )}
      {(d.spots ?? []).map((s, i) => {
        const [x, y] = at(s.at);
        if (s.kind === "forward")
          return <path key={i} d={`M${x} ${y + 12}V${y - 12}m-5 6l5 -6l5 6`} stroke="var(--ink)" strokeWidth="1.6" />;
        return s.kind === "coil" || s.kind === "helix" ? (
          <path
            key={i}
            d={`M${x - 9} ${y}q2 -9 4.5 0t4.5 0t4.5 0t4.5 0`}
            stroke={dashed ? "var(--tide)" : "var(--copper-text)"}
            strokeWidth="2.4"
          />
        ) : (
          <circle
            key={i}
            cx={x}
            cy={y}
            r="4.5"
            fill="var(--paper)"
            stroke={dashed ? "var(--tide)" : "var(--copper-text)"}
            strokeWidth="2"
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
  const say = (l: Schemas["Length"]) => (imperial ? l.imperial : l.metric) ?? "";
  const labelled = (main.lines ?? []).filter((l) => (l.size?.m ?? 0) > 0);
  const ink = built ? "var(--copper-text)" : "var(--tide)";
  const foot = imperial ? 0.3048 : 1;
  const step = [0.2, 0.5, 1, 2, 5, 10, 20, 50].find((s) => s * foot * scale > 46) ?? 100;
  const bar = step * foot * scale;
  const taken = new Set<string>();
  const move = (e: PointerEvent) => {
    if (!held || !svg.current) return;
    const r = svg.current.getBoundingClientRect();
    const y = ((e.clientY - r.top) / r.height) * height;
    onMove?.(held.id, Math.max(0, Math.round(((held.ground - y) / held.scale) * 20) / 20));
  };
  // Where the drawing shows the figure that cannot be, or is unlikely.
  const marks = faults
    .filter((f) => f.severity === "error" || f.severity === "ask")
    .flatMap((f) => {
      const role = figureOf.find(([path]) => path.test(f.path))?.[1];
      const of = built ?? planned;
      if (!role || !of) return [];
      const lines = (of.lines ?? []).filter((l) => l.role === (role === "far" ? "radiator" : role));
      const ends = lines.flatMap((l) => [l.from, l.to]);
      const gone = (p: number[]) => Math.hypot(...p.map((v, i) => v - (of.feed[i] ?? 0)));
      const mid = (l: Schemas["Line"]) => l.from.map((v, i) => (v + (l.to[i] ?? 0)) / 2);
      const spot = role === "feed" ? of.feed : role === "far" ? [...ends].sort((a, b) => gone(b) - gone(a))[0] : lines[0] && mid(lines[0]);
      return spot ? [{ spot, fault: f }] : [];
    });
  return (
    <figure ref={box} className="layout">
      <svg
        ref={svg}
        viewBox={`0 0 ${size} ${height.toFixed(1)}`}
        width="100%"
        role="img"
        aria-label={`${above ? "From above" : "Side view"}, to scale: ${labelled.map((l) => `${l.role} ${say(l.size as Schemas["Length"])}`).join(", ")}`}
        onPointerMove={move}
        onPointerUp={() => setHeld(undefined)}
        onPointerCancel={() => setHeld(undefined)}
      >
        {!above && (
          <>
            <path d={`M10 ${ground}H${size - 10}`} stroke="var(--older)" strokeWidth="2" />
            {Array.from({ length: Math.floor(size / 30) }, (_, i) => (
              <path key={i} d={`M${24 + i * 29} ${ground + 1}l-7 8`} stroke="var(--hairline)" strokeWidth="1.5" />
            ))}
          </>
        )}
        {planned && drawn(planned, true)}
        {built && drawn(built, false)}
        {labelled.map((l, i) => {
          const text = say(l.size as Schemas["Length"]);
          const [[ax, ay], [bx, by]] = [at(l.from), at(l.to)];
          const upright = Math.abs(bx - ax) < 24;
          let turn = (Math.atan2(by - ay, bx - ax) * 180) / Math.PI;
          if (turn > 90 || turn < -90) turn += 180;
          const short = Math.hypot(bx - ax, by - ay) < 60;
          const spot = `${Math.round((ax + bx) / 40)},${Math.round((ay + by) / 40)}`;
          if (taken.has(spot) || taken.has(l.role + text)) return null;
          taken.add(spot).add(l.role + text);
          const end = (ax + bx) / 2 > size - 110;
          return (
            <text
              key={`${text}${i}`}
              x={(ax + bx) / 2 + (upright || short ? (end ? -12 : 12) : 0)}
              y={(ay + by) / 2 + (upright ? 5 : short ? 18 : -10)}
              transform={upright || short ? undefined : `rotate(${turn} ${(ax + bx) / 2} ${(ay + by) / 2})`}
              textAnchor={upright || short ? (end ? "end" : "start") : "middle"}
              className="mono"
              fontSize="16"
              fontWeight="700"
              fill={l.role === "radiator" || l.role === "loop" ? ink : "var(--ink)"}
              stroke="var(--paper)"
              strokeWidth="4"
              paintOrder="stroke"
            >
              {text}
            </text>
          );
        })}
        {(main.spots ?? []).map((s, i) => {
          const [x, y] = at(s.at);
          if (!s.text || (main.spots ?? []).findIndex((o) => o.text === s.text) !== i) return null;
          const end = x > size - 90;
          return (
            <text
              key={`${s.text}${i}`}
              x={x + (end ? -12 : 12)}
              y={y + (s.kind === "forward" ? 5 : s.kind === "link" ? 21 + (i % 2) * 15 : -10)}
              textAnchor={end ? "end" : "start"}
              fontSize="14"
              fill="var(--ink)"
              stroke="var(--paper)"
              strokeWidth="4"
              paintOrder="stroke"
            >
              {s.text}
            </text>
          );
        })}
        {marks.map(({ spot, fault }, i) => {
          const [x, y] = at(spot);
          const [cx, cy] = [Math.min(Math.max(x + 18 + i * 26, 20), size - 20), Math.max(y - 22, 18)];
          return (
            <g key={fault.path + fault.text} className="faulty">
              <path d={`M${x} ${y}L${cx} ${cy}`} stroke="var(--clay)" strokeWidth="1.6" />
              <circle cx={cx} cy={cy} r="11" fill="var(--paper)" stroke="var(--clay)" strokeWidth="2.2" />
              <text x={cx} y={cy + 5.5} textAnchor="middle" fontSize="15" fontWeight="700" fill="var(--clay)">
                {i + 1}
              </text>
            </g>
          );
        })}
        {!above &&
          handles.map((h) => {
            const [x, y] = at(h.at);
            return (
              <g
                key={h.id}
                className="noprint"
                style={{ cursor: "ns-resize", touchAction: "none" }}
                onPointerDown={(e) => {
                  e.currentTarget.setPointerCapture(e.pointerId);
                  setHeld({ id: h.id, scale, ground, y });
                }}
              >
                <title>{h.label}</title>
                <circle cx={x} cy={y} r="22" fill="transparent" />
                <path
                  d={`M${x + 15} ${y - 3}l5 -8l5 8M${x + 15} ${y + 3}l5 8l5 -8`}
                  fill="none"
                  stroke={held?.id === h.id ? "var(--copper)" : "var(--reed)"}
                  strokeWidth="2.2"
                  strokeLinecap="round"
                  strokeLinejoin="round"
                />
              </g>
            );
          })}
        <g transform={`translate(16 ${height - 14})`} stroke="var(--ink)" fill="none" strokeWidth="1.5">
          <path d={`M0 -4V4M0 0H${bar}M${bar} -4V4`} />
          <text x={bar + 8} y="5" fontSize="14" fill="var(--ink)" stroke="none">
            {step} {imperial ? "ft" : "m"}
            {above ? ", from above" : ""}
          </text>
        </g>
      </svg>
      {marks.length > 0 && (
        <ol className="faults">
          {marks.map(({ fault }) => (
            <li key={fault.path + fault.text}>{fault.text}</li>
          ))}
        </ol>
      )}
    </figure>
  );
}
