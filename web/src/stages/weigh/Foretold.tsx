import { scaleLinear } from "d3-scale";
import type { Schemas } from "../../api/client";
import { metres, signed } from "../../draw/numbers";
import { Fold, useWide } from "../../parts/Fold";
import { Progress } from "../../parts/Progress";
import { useComputed } from "../../parts/useComputed";
import type { Pair } from "./Air";
import { Rose } from "./Rose";

type Band = Schemas["ForetoldBand"];

/** A mark for each band, told by its form and not by its colour. */
const marks = ["M-6 0a6 6 0 1 0 12 0a6 6 0 1 0-12 0", "M-6-6h12v12h-12z", "M0-7L7 6H-7z", "M0-8L8 0L0 8L-8 0z", "M-6-6L6 6M6-6L-6 6"];

/** Each receiver: what the model foretold of it, and what it heard. On the line both agree. */
function Cloud({ of }: { of: Band[] }) {
  const wide = useWide();
  const points = of.flatMap((b, i) => b.paths.flatMap((p) => (p.air_db === null ? [] : [{ ...p, air: p.air_db, i }])));
  if (points.length < 2) return null;
  const width = wide ? 560 : 370;
  const height = wide ? 380 : 340;
  const all = points.flatMap((p) => [p.model_db, p.air]);
  const domain = [Math.min(-3, ...all) - 1, Math.max(3, ...all) + 1];
  const x = scaleLinear(domain, [56, width - 12]).nice();
  const y = scaleLinear(domain, [height - 52, 12]).nice();
  const [from = 0, until = 0] = x.domain();
  return (
    <figure>
      <svg
        viewBox={`0 0 ${width} ${height}`}
        width="100%"
        style={{ maxWidth: width }}
        role="img"
        aria-label={`Predicted and reported, ${points.length} receivers`}
      >
        {x.ticks(6).map((t) => (
          <g key={t}>
            <path d={`M${x(t)} ${y(from)}V${y(until)}M${x(from)} ${y(t)}H${x(until)}`} stroke="var(--hairline)" />
            <text x={x(t)} y={y(from) + 20} textAnchor="middle" fontSize="14" className="mono" fill="var(--ink)">
              {signed(t, 0)}
            </text>
            <text x="48" y={y(t) + 5} textAnchor="end" fontSize="14" className="mono" fill="var(--ink)">
              {signed(t, 0)}
            </text>
          </g>
        ))}
        <path d={`M${x(from)} ${y(from)}L${x(until)} ${y(until)}`} stroke="var(--ink)" strokeWidth="2" strokeDasharray="6 5" />
        {points.map((p) => (
          <path
            key={`${p.receiver}${p.i}`}
            d={marks[p.i % marks.length]}
            transform={`translate(${x(p.model_db)} ${y(p.air)})`}
            fill={p.i === 0 ? "var(--ink)" : "none"}
            stroke="var(--ink)"
            strokeWidth="2"
          />
        ))}
        <text x={width - 12} y={height - 6} textAnchor="end" fontSize="14" fill="var(--ink)">
          foretold, dB
        </text>
        <text x="64" y="26" fontSize="14" fill="var(--ink)">
          heard, dB
        </text>
      </svg>
      <figcaption className="small soft row">
        {of.map((b, i) => (
          <span key={b.band}>
            <svg width="18" height="18" viewBox="-9 -9 18 18" aria-hidden="true">
              <path d={marks[i % marks.length]} fill={i === 0 ? "var(--ink)" : "none"} stroke="var(--ink)" strokeWidth="2" />
            </svg>{" "}
            {metres(b.band)}
          </span>
        ))}
        <span>Each dot is a receiver. Dots on the dashed line match the prediction.</span>
      </figcaption>
    </figure>
  );
}

/** The model against the air, on the paths that were really worked. */
export function Foretold({ pair, names }: { pair: Pair; names: [string, string] }) {
  const c = useComputed("weigh-paths", "paths", pair);
  const bands = c.result?.bands ?? [];
  return (
    <section className="stack tight foretold" aria-label="Model and reports">
      <Fold head name="Model and on-air reports" says="on the paths that were worked">
        <Progress of={c} what="computing both towards each receiver" />
        {bands.map((b) => (
          <div key={b.band}>
            <p>{b.says}</p>
            {b.causes.length > 0 && (
              <ul className="assumed">
                {b.causes.map((x) => (
                  <li key={x}>{x}</li>
                ))}
              </ul>
            )}
          </div>
        ))}
        <div className="row roses">
          <Cloud of={bands} />
          {bands.map((b) => (
            <Rose key={b.band} of={b} names={names} />
          ))}
        </div>
      </Fold>
    </section>
  );
}
