import { useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { useWide } from "../../parts/Fold";
import type { Drawing } from "./Drawing";

type Spot = [number, number];
type Thing = Schemas["SiteThing"];

type Size = { w: number; h: number; edge: number; grip: number };
const onDesk: Size = { w: 600, h: 400, edge: 26, grip: 15 };
const inHand: Size = { w: 360, h: 330, edge: 18, grip: 24 };

/** The window of the plan: what is told and what is laid in, with a margin; metres to the plan's own units. */
function frame(size: Size, map: Schemas["SiteMap"] | undefined, chosen?: Schemas["ScoutCandidate"]) {
  const all = [
    ...(map?.things ?? []).filter((t) => t.kind !== "power-line" && t.kind !== "water").flatMap((t) => t.points as Spot[]),
    ...(chosen?.placement?.lines ?? []).flatMap((l) => [l.from, l.to] as Spot[]),
  ];
  const xs = all.length ? all.map((p) => p[0]) : [-10, 10];
  const ys = all.length ? all.map((p) => p[1]) : [-10, 10];
  const middle: Spot = [(Math.min(...xs) + Math.max(...xs)) / 2, (Math.min(...ys) + Math.max(...ys)) / 2];
  const wide = Math.max(Math.max(...xs) - Math.min(...xs), 6);
  const high = Math.max(Math.max(...ys) - Math.min(...ys), 6);
  const k = Math.min((size.w - 2 * size.edge) / wide, (size.h - 2 * size.edge) / high);
  return {
    k,
    x: (p: Spot) => size.w / 2 + (p[0] - middle[0]) * k,
    y: (p: Spot) => size.h / 2 - (p[1] - middle[1]) * k,
    back: (px: number, py: number): Spot => [middle[0] + (px - size.w / 2) / k, middle[1] - (py - size.h / 2) / k],
  };
}

type Frame = ReturnType<typeof frame>;
const through = (f: Frame, points: Spot[]) => points.map((p, i) => `${i ? "L" : "M"}${f.x(p).toFixed(1)} ${f.y(p).toFixed(1)}`).join("");

/** A thing of the site as it lies or stands. */
function Mark({ t, f }: { t: Thing; f: Frame }) {
  const points = t.points as Spot[];
  const [p] = points;
  if (!p) return null;
  const [x, y] = [f.x(p), f.y(p)];
  switch (t.kind) {
    case "area":
      return <path d={`${through(f, points)}Z`} className="site-area" />;
    case "wet":
    case "building":
    case "lake":
    case "parking":
    case "wood":
    case "unknown":
      return <path d={`${through(f, points)}Z`} className={`site-${t.kind}`} />;
    case "tree":
      return (
        <g>
          <circle cx={x} cy={y} r={Math.max(9, 1.2 * f.k)} className="site-tree" />
          <path d={`M${x} ${y - 5}V${y + 5}M${x - 5} ${y}H${x + 5}`} className="site-line" />
        </g>
      );
    case "path":
      return <path d={through(f, points)} className="site-path" strokeWidth={Math.max(4, (t.wide_m || 2) * f.k)} />;
    case "water":
      return <path d={through(f, points)} className="site-water" />;
    case "power-line":
      return <path d={through(f, points)} className="site-power" />;
    case "fence":
    case "wall":
      return <path d={through(f, points)} className="site-line" strokeDasharray={t.kind === "fence" ? "2 5" : undefined} strokeWidth="3" />;
    default:
      return <rect x={x - 7} y={y - 5} width="14" height="10" className={t.metal ? "site-metal" : "site-thing"} />;
  }
}

/** The antenna as it is laid in: dashed, since it is computed, with the circles in which what stands may fall, and the ground
 * that people keep off while one sends. */
function Laid({ c, f }: { c: Schemas["ScoutCandidate"]; f: Frame }) {
  const p = c.placement;
  if (!p) return null;
  const stay = Math.max(0, ...c.bands.map((b) => b.stay_m ?? 0));
  const hot = p.lines.filter((l) => stay > 0 && Math.max(l.from_m, l.to_m) > 0.3 && (l.role === "radiator" || l.role === "loop"));
  return (
    <g>
      {hot.map((l, i) => (
        <path
          key={`off${i + 1}`}
          d={`${through(f, [l.from as Spot, l.to as Spot])}l0.01 0`}
          className="site-off"
          strokeWidth={2 * stay * f.k}
        />
      ))}
      <circle cx={f.x(p.feed as Spot)} cy={f.y(p.feed as Spot)} r={p.fall_m * f.k} className="site-fall" />
      {p.falls.map((x, i) => (
        <circle key={`fall${i + 1}`} cx={f.x(x.at as Spot)} cy={f.y(x.at as Spot)} r={x.m * f.k} className="site-fall one" />
      ))}
      {p.lines.map((l, i) => {
        const flat = Math.hypot((l.from as Spot)[0] - (l.to as Spot)[0], (l.from as Spot)[1] - (l.to as Spot)[1]) < 0.05;
        const d = through(f, [l.from as Spot, l.to as Spot]);
        return flat ? null : <path key={i} d={d} className={l.role === "string" ? "site-string" : "site-wire"} />;
      })}
      <circle cx={f.x(p.at as Spot)} cy={f.y(p.at as Spot)} r="6" className="site-foot" />
      <circle cx={f.x(p.feed as Spot)} cy={f.y(p.feed as Spot)} r="3.5" className="site-feed" />
    </g>
  );
}

/** How far an arrow key moves a point, in metres. */
const arrows: Record<string, Spot> = { ArrowLeft: [-0.5, 0], ArrowRight: [0.5, 0], ArrowUp: [0, 0.5], ArrowDown: [0, -0.5] };

/** A point that is taken and moved, by finger, mouse or arrow keys. */
function Handle({ at: p, name, f, svg, r, className, move }: HandleProps) {
  const [at, setAt] = useState<Spot>();
  const spot = (e: React.PointerEvent) => onPlan(svg, f, e);
  return (
    <circle
      cx={f.x(at ?? p)}
      cy={f.y(at ?? p)}
      r={r}
      className={className}
      tabIndex={0}
      role="button"
      aria-label={name}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        setAt(spot(e));
      }}
      onPointerMove={(e) => at && setAt(spot(e))}
      onPointerUp={(e) => {
        if (at) void Promise.resolve(move(spot(e))).finally(() => setAt(undefined));
      }}
      onPointerCancel={() => setAt(undefined)}
      onKeyDown={(e) => {
        const by = arrows[e.key];
        if (!by) return;
        e.preventDefault();
        void move([p[0] + by[0], p[1] + by[1]]);
      }}
    />
  );
}

type HandleProps = {
  at: Spot;
  name: string;
  f: Frame;
  svg: SVGSVGElement | null;
  r: number;
  className: string;
  move: (to: Spot) => Promise<void> | void;
};

type Props = {
  map?: Schemas["SiteMap"];
  chosen?: Schemas["ScoutCandidate"];
  move: (line: number, point: number, to: Spot) => Promise<void>;
  drawing: Drawing;
  putFoot: (at: Spot) => void;
};

/** Where on the plan a pointer is. */
const onPlan = (svg: SVGSVGElement | null, f: Frame, e: { clientX: number; clientY: number }): Spot => {
  const m = svg?.getScreenCTM()?.inverse();
  const q = m ? new DOMPoint(e.clientX, e.clientY).matrixTransform(m) : { x: 0, y: 0 };
  return f.back(q.x, q.y);
};

const areas = ["area", "building", "wet"];

/** Points of things that can be moved: those that stand and run, or the corners of areas. */
function Grips({ things, corners, move, ...to }: GripsProps) {
  return things
    .filter((t) => areas.includes(t.kind) === corners)
    .flatMap((t) =>
      t.points.map((p, i) => (
        <Handle
          key={`${t.line}:${i + 1}`}
          at={p as Spot}
          name={`Move the ${t.name || t.kind.replace("-", " ")}${t.points.length > 1 ? `, point ${i + 1}` : ""}`}
          className="site-grip"
          move={(q) => move(t.line, i, q)}
          {...to}
        />
      )),
    );
}

type GripsProps = { things: Thing[]; corners: boolean; move: Props["move"]; f: Frame; svg: SVGSVGElement | null; r: number };

/** The site from above, north up and to scale. */
export function SitePlan({ map, chosen, move, drawing: d, foot, putFoot }: Props & { foot?: Spot }) {
  const stands = foot ?? (chosen?.placement?.at as Spot | undefined);
  const svg = useRef<SVGSVGElement>(null);
  const size = useWide() ? onDesk : inHand;
  const f = frame(size, map, chosen);
  const step = [1, 2, 5, 10, 20, 50, 100].find((m) => m * f.k > 70) ?? 200;
  const things = map?.things ?? [];
  return (
    <figure>
      <svg ref={svg} viewBox={`0 0 ${size.w} ${size.h}`} width="100%" className="site" role="group" aria-label="The site from above">
        <title>The site from above, north up</title>
        {things.map((t) => (
          <Mark key={`${t.line}`} t={t} f={f} />
        ))}
        {chosen && <Laid c={chosen} f={f} />}
        {!d.kind && <Grips things={things} corners={d.what === "corners"} f={f} svg={svg.current} move={move} r={size.grip} />}
        {!d.kind && d.what === "" && stands && (
          <Handle at={stands} name="Move the pole" className="site-grip foot" f={f} svg={svg.current} r={size.grip} move={putFoot} />
        )}
        {d.points.length > 0 && <path d={through(f, d.points)} className="site-drawn" />}
        {d.points.map((p, i) => (
          <circle key={`drawn${i + 1}`} cx={f.x(p)} cy={f.y(p)} r="5" className="site-drawn" />
        ))}
        {d.kind && (
          // biome-ignore lint/a11y/noStaticElementInteractions: what is drawn here can be typed as a line
          <rect width={size.w} height={size.h} className="site-sheet" onClick={(e) => d.tap(onPlan(svg.current, f, e))} />
        )}
        {chosen?.placement && (
          <text x="8" y="18" className="site-text">
            ○ may fall{chosen.bands.some((b) => b.stay_m) ? ", shaded: keep off" : ""}
          </text>
        )}
        <path d={`M${size.w - 22} 44V16M${size.w - 28} 24L${size.w - 22} 14L${size.w - 16} 24`} className="site-line" />
        <text x={size.w - 22} y="60" textAnchor="middle" className="site-text">
          N
        </text>
        <path d={`M16 ${size.h - 14}h${step * f.k}m0 -5v10M16 ${size.h - 19}v10`} className="site-line" />
        <text x={16 + step * f.k + 8} y={size.h - 9} className="site-text mono">
          {step} m
        </text>
      </svg>
    </figure>
  );
}
