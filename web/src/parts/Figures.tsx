import { Fragment, useEffect, useRef } from "react";
import type { Schemas } from "../api/client";
import "./Figures.css";

/** Single computed figures with where they come from. */
export function Figures({ of }: { of: Schemas["Figure"][] }) {
  if (of.length === 0) return null;
  return (
    <dl className="figures">
      {of.map((f) => (
        <div key={f.label}>
          <dt>{f.label}</dt>
          <dd>
            <span className="mono tide">{f.value}</span>
            {f.why && <small>{f.why}</small>}
          </dd>
        </div>
      ))}
    </dl>
  );
}

/** Leaves out what a closed form estimates and the forecast has by now. */
export const withoutEstimates = (p: Schemas["Plan"]) => ({
  figures: (p.figures ?? []).filter((f) => !f.estimate),
  tables: (p.tables ?? []).map((t) => {
    const shown = (_: string, column: number) => !(t.estimates ?? []).includes(column);
    return { ...t, columns: t.columns.filter(shown), rows: (t.rows ?? []).map((r) => r.filter(shown)) };
  }),
});

/** Several answers side by side, as core laid them out. */
export function Tables({ of }: { of: Schemas["Table"][] }) {
  return of.map((t) => (
    <section key={t.title} className="stack tight">
      <h2>{t.title}</h2>
      <div className="scroll" tabIndex={0} role="region" aria-label={t.title}>
        <table className="dense">
          <thead>
            <tr>
              {t.columns.map((c) => (
                <th key={c}>{c}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {(t.rows ?? []).map((r, i) => (
              <tr key={i}>
                {r.map((c, k) => (
                  <td key={k} className={k > 0 ? "mono tide" : /^\d/.test(c) ? "mono" : "nobreak"}>
                    {c}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {t.note && <p className="small soft">{t.note}</p>}
    </section>
  ));
}

/** Where practitioners differ: every way with its figures, beside each other. */
export function Schools({ of }: { of: Schemas["School"][] }) {
  const questions = [...new Set(of.map((s) => s.question))];
  return (
    <div className="scroll" tabIndex={0} role="region" aria-label="Where practitioners differ">
      <table className="dense schools">
        <tbody>
          {questions.map((q) => (
            <Fragment key={q}>
              <tr>
                <th colSpan={3} scope="rowgroup">
                  {q}
                </th>
              </tr>
              {of
                .filter((s) => s.question === q)
                .map((s) => (
                  <tr key={s.way}>
                    <td>{s.way}</td>
                    <td className="tide">{s.figures}</td>
                    <td className="small soft">{s.says}</td>
                  </tr>
                ))}
            </Fragment>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** A strip at its true size: millimetres on paper. The ruler below it shows whether the printer kept it. */
export function Strips({ of }: { of: Schemas["Strip"][] }) {
  const fold = useRef<HTMLDetailsElement>(null);
  useEffect(() => {
    // What is folded away on the screen stands on paper.
    let was = false;
    const before = () => {
      was = fold.current?.open ?? false;
      if (fold.current) fold.current.open = true;
    };
    const after = () => {
      if (fold.current) fold.current.open = was;
    };
    addEventListener("beforeprint", before);
    addEventListener("afterprint", after);
    return () => {
      removeEventListener("beforeprint", before);
      removeEventListener("afterprint", after);
    };
  }, []);
  if (of.length === 0) return null;
  const ruler = 100;
  return (
    <details className="fold printed" ref={fold}>
      <summary>Marks to print at true size</summary>
      <div className="stack strips">
        {of.map((s) => {
          const width = Math.max(s.mm, ruler) + 12;
          return (
            <figure key={s.title}>
              <figcaption className="small">
                {s.title}, 1:1. Lay zero against {s.edge}.
              </figcaption>
              <svg
                viewBox={`-6 0 ${width} 34`}
                style={{ width: `${width}mm`, height: "34mm" }}
                role="img"
                aria-label={`${s.title}: ${s.marks
                  .filter((m) => m.text)
                  .map((m) => `${m.text} at ${m.mm.toFixed(1)} mm`)
                  .join(", ")}`}
              >
                <rect x="0" y="1" width={s.mm} height="13" fill="none" stroke="var(--ink)" strokeWidth="0.35" />
                {s.marks.map((m, i) => (
                  <g key={i}>
                    <path d={`M${m.mm} 1V${m.text ? 3.4 + (i % 3) * 3.2 : 3}`} stroke="var(--ink)" strokeWidth="0.3" />
                  </g>
                ))}
                {s.marks.map(
                  (m, i) =>
                    m.text && (
                      <text
                        key={i}
                        x={m.mm}
                        y={6.2 + (i % 3) * 3.2}
                        fontSize="2.9"
                        textAnchor="middle"
                        fill="var(--ink)"
                        stroke="var(--paper)"
                        strokeWidth="0.9"
                        paintOrder="stroke"
                        className="mono"
                      >
                        {m.text}
                      </text>
                    ),
                )}
                <path
                  d={`M0 20H${ruler}${Array.from({ length: 11 }, (_, i) => `M${i * 10} 20v${i % 5 === 0 ? 4 : 2.5}`).join("")}`}
                  fill="none"
                  stroke="var(--ink)"
                  strokeWidth="0.3"
                />
                <text x="0" y="29" fontSize="3.4" fill="var(--ink)">
                  100 mm: measure it before you trust the marks; print at 100 %.
                </text>
              </svg>
            </figure>
          );
        })}
      </div>
    </details>
  );
}
