import { lazy, Suspense, useState } from "react";
import type { Schemas } from "../api/client";
import { Dome, Rose } from "../draw/Pattern";
import type { Computing } from "./useComputed";

const SwrPlot = lazy(() => import("../draw/SwrPlot"));

const mhz = (hz: number) => (hz / 1e6).toFixed(hz % 1e4 ? 3 : 2);
const ratio = (v: number) => (v > 20 ? "over 20" : v.toFixed(v < 3 ? 1 : 0));
const signed = (v: number) => `${v < 0 ? "−" : "+"}${Math.abs(v).toFixed(1)} dB`;
const watts = (v: number) => (v >= 100 ? v.toFixed(0) : v.toPrecision(2));
const volts = (v: number) => (v < 10 ? v.toFixed(1) : Number(v.toPrecision(2)).toFixed(0));

/** How far a computation is, with the way to stop it. */
export function Progress({ of: c, what }: { of: Computing; what: string }) {
  if (c.trouble)
    return (
      <div className="row" role="status">
        <span className="note error small">{c.trouble}</span>
        {(c.trouble === "Stopped." || c.trouble.startsWith("The link")) && (
          <button type="button" className="linkbtn" onClick={c.again}>
            Compute it
          </button>
        )}
      </div>
    );
  if (!c.running) return null;
  return (
    <div className="computing">
      <progress max={Math.max(c.of, 1)} value={c.step} aria-label={what} />
      <span className="small soft">{c.waits ? `${what}: waiting for its turn` : what}</span>
      <button type="button" className="linkbtn small" onClick={c.stop}>
        stop
      </button>
    </div>
  );
}

/** From the radio's socket to the sky: what each stage takes, to scale. */
function Budget({ band, power }: { band: Schemas["BandForecast"]; power: number }) {
  let before = power;
  const sky = band.budget[band.budget.length - 1]?.watts ?? power;
  return (
    <section className="stack tight">
      <h2>
        Of <span className="mono">{watts(power)} W</span> from the radio <span className="mono tide">{watts(sky)} W</span> reach the sky
      </h2>
      <div className="budget">
        {band.budget.map((s) => {
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
    </section>
  );
}

/** What the solver foresees of an antenna, band by band. */
export function Forecast({ of: c, limit }: { of: Computing; limit: number }) {
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
                  <b>{b.name.replace(/m$/, " m")}</b> <span className="mono tide">{ratio(b.wanted_swr)}</span>
                </button>
              ))}
            </div>
          )}
          <Suspense fallback={<p className="soft">Drawing…</p>}>
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
              title={`Computed SWR on ${band.name}: lowest ${ratio(band.best_swr)} at ${mhz(band.best_hz)} MHz, ${ratio(band.wanted_swr)} at ${mhz(band.hz)} MHz`}
            />
          </Suspense>
          <dl className="facts">
            <div>
              <dt>SWR at {mhz(band.hz)} MHz</dt>
              <dd className="tide">{ratio(band.wanted_swr)}</dd>
            </div>
            <div>
              <dt>lowest</dt>
              <dd className="tide">
                {ratio(band.best_swr)}
                <small>
                  at <span className="mono">{mhz(band.best_hz)}</span> MHz
                </small>
              </dd>
            </div>
            {band.setting && (
              <div>
                <dt>set to</dt>
                <dd className="tide">{band.setting}</dd>
              </div>
            )}
            <div>
              <dt>to the sky</dt>
              <dd className="tide">
                {band.spread
                  ? `${(100 * (band.spread.sky[0] ?? 0)).toFixed(0)} to ${(100 * (band.spread.sky[1] ?? 0)).toFixed(0)} %`
                  : `${(100 * band.sky).toFixed(0)} %`}
                <small>{band.spread ? "over the soil's range" : "of what the wires take"}</small>
              </dd>
            </div>
            <div>
              <dt>take-off</dt>
              <dd className="tide">
                {band.pattern.take_off.toFixed(0)}°<small>{band.pattern.gain.toFixed(1)} dBi there</small>
              </dd>
            </div>
            {band.pattern.over_dipole !== undefined && (
              <div>
                <dt>at that angle</dt>
                <dd className="tide">
                  {signed(band.pattern.over_dipole)}
                  <small>against a dipole as high</small>
                </dd>
              </div>
            )}
            {band.pattern.over_quarter !== undefined && (
              <div>
                <dt>and</dt>
                <dd className="tide">
                  {signed(band.pattern.over_quarter)}
                  <small>against a full quarter-wave</small>
                </dd>
              </div>
            )}
            {band.coax_current > 0.02 && (
              <div>
                <dt>coax carries</dt>
                <dd className="tide">
                  {(100 * band.coax_current).toFixed(0)} %<small>of the wire's current, outside</small>
                </dd>
              </div>
            )}
          </dl>
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
            <summary>For which assumptions</summary>
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
export function Asked({ of: c, what }: { of: Computing; what: string }) {
  const a = c.result?.answer;
  return (
    <>
      <Progress of={c} what={what} />
      {a && <p className="tide">{a.sentence}</p>}
    </>
  );
}
