import { type PointerEvent, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { Antenna, Ground, Lengths, ScaleBar, Words } from "./Antenna";
import { FaultMarks, faultMarks } from "./FaultMarks";
import { type Drawing, sceneOf, useWidth } from "./scene";
import "./Layout.css";

/** The set-up to scale, from the side or from above. Built is drawn solid in copper, planned dashed in tide. */
export function Layout({
  built,
  planned,
  imperial = false,
  faults = [],
  onMove,
}: {
  faults?: Schemas["Fault"][];
  built?: Drawing;
  planned?: Drawing;
  imperial?: boolean;
  onMove?: (field: string, metres: number) => void;
}) {
  const [box, size] = useWidth(720);
  const [held, setHeld] = useState<{ field: string; scale: number; ground: number }>();
  const svg = useRef<SVGSVGElement>(null);
  const main = built ?? planned;
  const all = [...(built?.lines ?? []), ...(planned?.lines ?? [])];
  if (!main || all.length === 0) return null;
  const scene = sceneOf(main.view, all, size);
  const { above, height, scale, ground } = scene;
  const move = (e: PointerEvent) => {
    if (!held || !svg.current) return;
    const r = svg.current.getBoundingClientRect();
    const y = ((e.clientY - r.top) / r.height) * height;
    onMove?.(held.field, Math.max(0, Math.round(((held.ground - y) / held.scale) * 20) / 20));
  };
  const marks = faultMarks(main, faults);
  const said = (main.lines ?? [])
    .filter((l) => (l.size?.m ?? 0) > 0)
    .map((l) => `${l.role} ${imperial ? l.size?.imperial : l.size?.metric}`);
  return (
    <figure ref={box} className="layout">
      <svg
        ref={svg}
        viewBox={`0 0 ${size} ${height.toFixed(1)}`}
        width="100%"
        role="img"
        aria-label={`${above ? "From above" : "Side view"}, to scale: ${said.join(", ")}`}
        onPointerMove={move}
        onPointerUp={() => setHeld(undefined)}
        onPointerCancel={() => setHeld(undefined)}
      >
        {!above && <Ground of={scene} />}
        {planned && <Antenna of={planned} scene={scene} dashed />}
        {built && <Antenna of={built} scene={scene} />}
        <Lengths of={main} scene={scene} imperial={imperial} ink={built ? "var(--copperText)" : "var(--tide)"} />
        <Words of={main} scene={scene} />
        <FaultMarks of={marks} scene={scene} />
        {onMove &&
          (main.handles ?? []).map((h) => (
            <Grip
              key={h.field}
              at={scene.at(h.at)}
              label={h.label}
              held={held?.field === h.field}
              onTake={() => setHeld({ field: h.field, scale, ground })}
            />
          ))}
        <ScaleBar of={scene} imperial={imperial} />
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

/** What a height is taken by, wide enough for a thumb. */
function Grip({ at: [x, y], label, held, onTake }: { at: [number, number]; label: string; held: boolean; onTake: () => void }) {
  return (
    <g
      className="grip noprint"
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        onTake();
      }}
    >
      <title>{label}</title>
      <circle cx={x} cy={y} r="22" fill="transparent" />
      <path
        d={`M${x + 15} ${y - 3}l5 -8l5 8M${x + 15} ${y + 3}l5 8l5 -8`}
        fill="none"
        stroke={held ? "var(--copper)" : "var(--reed)"}
        strokeWidth="2.2"
        strokeLinecap="round"
        strokeLinejoin="round"
      />
    </g>
  );
}
