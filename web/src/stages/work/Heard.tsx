import { lazy, Suspense, useState } from "react";
import { type Schemas, useGet } from "../../api/client";
import { AerialKey } from "../../draw/Aerials";
import { metres } from "../../draw/numbers";
import { clock } from "./clock";

const HeardMap = lazy(() => import("./HeardMap").then((m) => ({ default: m.HeardMap })));

const round = (v: number | null | undefined) => (v === null || v === undefined ? "" : v.toFixed(0));

const hours = [
  ["", "all"],
  ["1", "the last hour"],
  ["3", "the last 3 hours"],
] as const;

/** Who heard one: as a map, as a list, and down to the single report. */
export function Heard({ outing }: { outing: Schemas["OutingDetail"] }) {
  const id = outing.outing.id;
  const [band, setBand] = useState("");
  const [last, setLast] = useState("");
  const [picked, pick] = useState("");
  const [from] = useState(() => Date.now());
  const since = last ? new Date(from - Number(last) * 3600000).toISOString() : undefined;
  const who = useGet("/api/outings/{id}/heard", { path: { id }, query: { band: band || undefined, from: since } }, { keep: true });
  const number = (deployment: string) => outing.tags.findIndex((t) => t.id === deployment);
  const w = who.data;
  if (!w) return null;
  const bands = [...new Set(w.bands.map((b) => b.band))].filter(Boolean);
  const used = [...new Set(w.receivers.map((r) => number(r.heard.deployment_id)))].sort();
  return (
    <section className="stack" aria-label="Who heard you">
      <p>{w.sentence}</p>
      {w.bands.length > 0 && (
        <>
          <div className="row">
            <select className="pick" aria-label="Band heard on" value={band} onChange={(e) => setBand(e.target.value)}>
              <option value="">all bands</option>
              {bands.map((b) => (
                <option key={b} value={b}>
                  {metres(b)}
                </option>
              ))}
            </select>
            <select className="pick" aria-label="When" value={last} onChange={(e) => setLast(e.target.value)}>
              {hours.map(([v, name]) => (
                <option key={v} value={v}>
                  {name}
                </option>
              ))}
            </select>
            {used.map((n) => (
              <AerialKey key={n} n={n} name={outing.tags[n] ? `${outing.tags[n].letter}, ${outing.tags[n].name}` : "no antenna"} />
            ))}
          </div>
          <div className="wide">
            <Suspense fallback={<div className="heardmap" />}>
              <HeardMap who={w} number={number} pick={pick} picked={picked} />
            </Suspense>
            <Receivers of={w} outing={outing} number={number} picked={picked} pick={pick} />
          </div>
        </>
      )}
    </section>
  );
}

/** How many receivers stand in the list before one asks for the others. */
const first = 12;

function Receivers({
  of: w,
  outing,
  number,
  picked,
  pick,
}: {
  of: Schemas["WhoHeard"];
  outing: Schemas["OutingDetail"];
  number: (d: string) => number;
  picked: string;
  pick: (r: string) => void;
}) {
  const [all, setAll] = useState(false);
  const list = all ? w.receivers : w.receivers.slice(0, first);
  return (
    <div className="stack tight">
      <div className="scroll" tabIndex={0} role="region" aria-label="Receivers">
        <table className="small">
          <thead>
            <tr>
              <th>Receiver</th>
              <th>With</th>
              <th>Reports</th>
              <th>Mean dB</th>
              <th>km</th>
              <th>°</th>
            </tr>
          </thead>
          <tbody>
            {list.map(({ heard: h }) => (
              <tr key={h.receiver + h.deployment_id}>
                <td>
                  <button
                    type="button"
                    className="linkbtn mono slim"
                    aria-pressed={picked === h.receiver}
                    onClick={() => pick(picked === h.receiver ? "" : h.receiver)}
                  >
                    {h.receiver}
                  </button>
                </td>
                <td>
                  <AerialKey n={number(h.deployment_id)} name={outing.tags[number(h.deployment_id)]?.letter ?? ""} />
                </td>
                <td className="mono">{h.reports}</td>
                <td className="mono">{round(h.mean_snr_db)}</td>
                <td className="mono">{round(h.distance_m === null ? null : h.distance_m / 1000)}</td>
                <td className="mono">{round(h.bearing)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {!all && w.receivers.length > first && (
        <button type="button" className="linkbtn" onClick={() => setAll(true)}>
          The other {w.receivers.length - first}
        </button>
      )}
      {picked && <Reports outing={outing} receiver={picked} />}
    </div>
  );
}

/** The reports of one receiver, each as it came. */
function Reports({ outing, receiver }: { outing: Schemas["OutingDetail"]; receiver: string }) {
  const page = useGet("/api/outings/{id}/reports", { path: { id: outing.outing.id }, query: { receiver, most: 60 } }, { keep: true });
  return (
    <div className="scroll low" tabIndex={0} role="region" aria-label={`Reports of ${receiver}`}>
      <table className="small">
        <tbody>
          {page.data?.reports.map((r) => (
            <tr key={r.id}>
              <td className="mono">{clock(r.at, r.seconds)}</td>
              <td className="mono">{r.receiver}</td>
              <td className="mono">{r.band && metres(r.band)}</td>
              <td className="mono">{r.mode}</td>
              <td className="mono">{r.snr_db === null ? "" : `${r.snr_db} dB`}</td>
              <td className="mono">{r.power_w === null ? "" : `${r.power_w} W`}</td>
              <td className="mono copper">{outing.tags.find((t) => t.id === r.deployment_id)?.letter}</td>
              <td>{r.simulated ? "simulated" : (r.marks ?? []).join("; ")}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {page.data?.next && <p className="small soft">and older ones</p>}
    </div>
  );
}
