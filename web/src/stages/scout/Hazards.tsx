import type { Schemas } from "../../api/client";

/** The dangers of this plan with their figures; what stops it comes first and cannot be ticked away. */
export function Hazards({ of }: { of: Schemas["Hazard"][] }) {
  const sorted = [...of].sort((a, b) => Number(b.stops ?? false) - Number(a.stops ?? false));
  return (
    <section className="stack" aria-label="Dangers">
      <ul className="plain stack tight">
        {sorted.map((h) => (
          <li key={h.code} className={h.stops ? "note error" : "note quiet"}>
            <b>{h.title}</b> {h.figure && <span className="mono small">{h.figure}</span>}
            <span className="block small">{h.text}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
