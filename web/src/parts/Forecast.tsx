import { lazy, Suspense, useState } from "react";
import type { Schemas } from "../api/client";
import { metres } from "../draw/numbers";
import { Dome, Rose } from "../draw/Pattern";
import { Facts } from "./Facts";
import { Progress } from "./Progress";
import { Stages, watts } from "./Stages";
import type { Computing } from "./useComputed";
import "./Forecast.css";

const SwrPlot = lazy(() => import("../draw/SwrPlot"));

const volts = (v: number) => (v < 10 ? v.toFixed(1) : Number(v.toPrecision(2)).toFixed(0));

/** From the radio's socket to the sky: what each stage takes, to scale. */
function Budget({ band, power }: { band: Schemas["BandForecast"]; power: number }) {
  const sky = band.budget[band.budget.length - 1]?.watts ?? power;
  return (
    <details className="fold">
      <summary>
        <h2>
          Of <span className="mono">{watts(power)} W</span> from the radio <span className="mono tide">{watts(sky)} W</span> are radiated
        </h2>
      </summary>
      <Stages of={band.budget} power={power} />
    </details>
  );
}

/** What the solver foresees of an antenna, band by band. */
export function Forecast({ of: c, limit }: { of: Computing<Schemas["ForecastAnswer"]>; limit: number }) {
  const [picked, setPicked] = useState(0);
  const f = c.result?.forecast;
  const band = f?.bands[Math.min(picked, (f?.bands.length ?? 1) - 1)];
  return (
    <section className="stack forecast" aria-label="Computed">
      <div className="row between">
        <h2>{f ? f.sentence : "Solving the wires"}</h2>
        <Progress of={c} what={f ? (f.coarse ? "refining" : "computing again") : "computing"} />
      </div>
      {f && band && (
        <>
          {f.bands.length > 1 && (
            <div className="bands" role="group" aria-label="Computed band">
              {f.bands.map((b, i) => (
                <button key={b.name} type="button" aria-pressed={b === band} onClick={() => setPicked(i)}>
                  <b>{metres(b.name)}</b> <span className="mono tide">{b.says_swr}</span>
                </button>
              ))}
            </div>
          )}
          <Suspense fallback={<p className="soft drawing low">Drawing…</p>}>
            <SwrPlot
              frequencies={band.curve.map((p) => p.hz)}
              strokes={[]}
              own={band.own ?? []}
              limit={limit}
              height={250}
              computed={{
                points: band.curve,
                low: band.spread?.low,
                high: band.spread?.high,
                label: f.tuner ? "computed, what the tuner has to match" : "computed",
              }}
              title={`Computed SWR on ${band.name}: ${band.facts
                .map((x) => `${x.label} ${x.value} ${x.why ?? ""}`.trim())
                .slice(0, 2)
                .join(", ")}`}
            />
          </Suspense>
          <Facts of={band.facts} tone="tide" />
          <div className="patterns">
            <Dome of={band.pattern} />
            <Rose of={band.pattern} />
          </div>
          <Budget band={band} power={f.power_w} />
          <p>
            Peak voltage at <span className="mono">{watts(f.power_w)} W</span>:{" "}
            {band.voltages.map((v, i) => (
              <span key={v.where}>
                {i > 0 && ", "}
                {v.where} <span className="mono tide">{volts(v.volts)} V</span>
              </span>
            ))}
            . Keep people and leaves off what is hot.
          </p>
          <details className="fold">
            <summary>Assumptions</summary>
            <p>{f.trust}</p>
            <ul className="assumed">
              {band.assumes.map((a) => (
                <li key={a}>{a}</li>
              ))}
            </ul>
            {band.spread && <p className="small soft">{band.spread.says}.</p>}
            <p className="small soft">
              {band.unknowns} unknowns, {band.solves} solves. An estimate of the model, not a measurement.
            </p>
          </details>
        </>
      )}
    </section>
  );
}

/** A question to the model, answered in place. */
export function Asked({ of: c, what }: { of: Computing<Schemas["ModelAnswer"]>; what: string }) {
  const a = c.result;
  return (
    <>
      <Progress of={c} what={what} />
      {a && <p className="tide">{a.sentence}</p>}
    </>
  );
}
