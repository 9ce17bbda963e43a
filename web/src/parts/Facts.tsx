import type { Schemas } from "../api/client";
import "./Facts.css";

/** Figures at a glance, as core words them: the first one measured or computed, the others beside it. */
export function Facts({ of, tone = "" }: { of: Schemas["Figure"][]; tone?: string }) {
  return (
    <dl className="facts">
      {of.map((f) => (
        <div key={`${f.label} ${f.value}`}>
          <dt>{f.label}</dt>
          <dd className={tone}>
            {f.value}
            {f.why && <small>{f.why}</small>}
          </dd>
        </div>
      ))}
    </dl>
  );
}
