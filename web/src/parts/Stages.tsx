import type { Schemas } from "../api/client";
import "./Forecast.css";

/** Watts to honest digits. */
export const watts = (v: number) => (Number(v.toPrecision(2)) >= 100 ? v.toFixed(0) : v.toPrecision(2));

/** What each stage on the way takes of a power, to scale. */
export function Stages({ of, power }: { of: Schemas["BudgetStage"][]; power: number }) {
  let before = power;
  return (
    <div className="budget">
      {of.map((s) => {
        const from = before;
        before = s.watts;
        if (s.db < 0.02) return null;
        return (
          <div key={s.name}>
            <span className="what">{s.name}</span>
            <span className="track" aria-hidden="true">
              <i className="kept" style={{ width: `${(100 * s.watts) / power}%` }} />
              <i className="lost" style={{ width: `${(100 * (from - s.watts)) / power}%` }} />
            </span>
            <span className="mono tide">−{s.db.toFixed(s.db < 1 ? 2 : 1)} dB</span>
            {s.why && <small>{s.why}</small>}
          </div>
        );
      })}
    </div>
  );
}
