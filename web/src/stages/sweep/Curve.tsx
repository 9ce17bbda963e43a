import { lazy, Suspense, useState } from "react";
import type { Schemas } from "../../api/client";
import { mhz } from "../../draw/numbers";
import type { Computed, Stroke } from "../../draw/SwrPlot";
import { useDraft } from "../../parts/draft";
import type { Explanation } from "./Why";
import "../../draw/plot.css";

const SwrPlot = lazy(() => import("../../draw/SwrPlot"));
const FacePlot = lazy(() => import("../../draw/FacePlot"));
const OverviewPlot = lazy(() => import("../../draw/FacePlot").then((m) => ({ default: m.OverviewPlot })));

type View = Schemas["ReadingView"];

const faces = [
  ["swr", "SWR"],
  ["rx", "R and X"],
  ["loss", "return loss"],
  ["disc", "reflection"],
] as const;

/** The measured curves: the one that is looked at, earlier ones, and on demand the other end of the cable. */
function strokesOf(w: View, otherEnd: boolean): Stroke[] {
  const strokes: Stroke[] = w.curves.map((c) => ({
    id: c.id,
    label: c.current ? `measured, ${c.label}` : `earlier, ${c.label}`,
    swr: c.swr as (number | null)[],
    kind: c.current ? "measured" : "earlier",
  }));
  if (otherEnd && w.other_end)
    strokes.push({ id: "other-end", label: w.other_end.label, swr: w.other_end.swr as (number | null)[], kind: "second" });
  return strokes.sort((a, b) => Number(b.kind === "measured") - Number(a.kind === "measured"));
}

/** The computed curve, or the one that a cause foretells. */
export function curveOf(shown?: Schemas["ShownForecast"], cause?: Explanation): Computed | undefined {
  if (cause) return { points: cause.curve, label: `predicted if: ${cause.title.toLowerCase()}` };
  return shown && { points: shown.curve, low: shown.low, high: shown.high, label: "computed as recorded" };
}

/** The picture in the middle: what was measured, in the face that one chooses. */
export function Curve({ view: w, name, computed }: { view: View; name: string; computed?: Computed }) {
  const [face, setFace] = useDraft<string>("face", "swr");
  const [otherEnd, setOtherEnd] = useState(false);
  const r = w.reading;
  if (!r) return null;
  const trimmed = w.verdict?.tone === "off";
  return (
    <div className="plot">
      <Suspense fallback={<p className="soft drawing">Drawing…</p>}>
        {face === "swr" || !w.quantities ? (
          <SwrPlot
            frequencies={w.frequencies}
            strokes={strokesOf(w, otherEnd)}
            own={r.own ?? []}
            limit={r.limit}
            computed={computed}
            takes={w.spread}
            dip={{ at: r.min_at, swr: r.min_swr, target: trimmed ? w.verdict?.target_hz : undefined }}
            title={`SWR of ${name} on ${w.band}: lowest ${w.facts[0]?.value} at ${mhz(r.min_at)} MHz`}
          />
        ) : (
          <FacePlot face={face} of={w.quantities} frequencies={w.frequencies} own={r.own ?? []} limit={r.limit} at={r.min_at} name={name} />
        )}
      </Suspense>
      <div className="faces" role="group" aria-label="Plot">
        {faces.map(([id, label]) => (
          <button key={id} type="button" aria-pressed={face === id} onClick={() => setFace(id)}>
            {label}
          </button>
        ))}
        {w.other_end && face === "swr" && (
          <button type="button" aria-pressed={otherEnd} onClick={() => setOtherEnd((v) => !v)}>
            + {w.other_end.label}
          </button>
        )}
      </div>
      {w.spread && <p>{w.spread.says}</p>}
    </div>
  );
}

/** The computed curve alone, where nothing was measured yet. */
export function Foretold({ of: f, curve, name, limit }: { of: Schemas["BandForecast"]; curve: Computed; name: string; limit: number }) {
  return (
    <div className="plot">
      <Suspense fallback={<p className="soft drawing">Drawing…</p>}>
        <SwrPlot
          frequencies={f.curve.map((p) => p.hz)}
          strokes={[]}
          own={f.own ?? []}
          limit={limit}
          computed={curve}
          title={`Computed SWR of ${name} on ${f.name}: ${f.says_swr} where it is wanted`}
        />
      </Suspense>
    </div>
  );
}

/** A sweep over everything, with the dips and the bands that they fall in. */
export function Whole({ of, bands }: { of: Schemas["Overview"]; bands: Schemas["Band"][] }) {
  return (
    <details className="fold" open>
      <summary>All of it, {`${mhz(of.frequencies[0] ?? 0)} to ${mhz(of.frequencies.at(-1) ?? 0)} MHz`}</summary>
      <Suspense fallback={<p className="soft drawing">Drawing…</p>}>
        <OverviewPlot of={of} bands={bands} />
      </Suspense>
    </details>
  );
}
