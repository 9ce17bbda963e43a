import type { Schemas } from "../api/client";
import type { Drawing, Scene } from "./scene";

type Mark = { spot: number[]; fault: Schemas["Fault"] };

/** Where the drawing shows the figures that cannot be, or are unlikely: core says which field is drawn where. */
export const faultMarks = (of: Drawing, faults: Schemas["Fault"][]): Mark[] =>
  faults
    .filter((f) => f.severity === "error" || f.severity === "ask")
    .flatMap((fault) => {
      const spot = of.places?.[fault.path];
      return spot ? [{ spot, fault }] : [];
    });

export function FaultMarks({ of, scene }: { of: Mark[]; scene: Scene }) {
  return of.map(({ spot, fault }, i) => {
    const [x, y] = scene.at(spot);
    const [cx, cy] = [Math.min(Math.max(x + 18 + i * 26, 20), scene.size - 20), Math.max(y - 22, 18)];
    return (
      <g key={fault.path + fault.text} className="faulty">
        <path d={`M${x} ${y}L${cx} ${cy}`} stroke="var(--clay)" strokeWidth="1.6" />
        <circle cx={cx} cy={cy} r="11" fill="var(--paper)" stroke="var(--clay)" strokeWidth="2.2" />
        <text x={cx} y={cy + 5.5} textAnchor="middle" fontSize="15" fontWeight="700" fill="var(--clay)">
          {i + 1}
        </text>
      </g>
    );
  });
}
