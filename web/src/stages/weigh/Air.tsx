import Button from "@mui/material/Button";
import { scaleLinear } from "d3-scale";
import { useState } from "react";
import { type Schemas, Trouble, useGet } from "../../api/client";
import { send } from "../../api/outbox";
import { many, metres, signed } from "../../draw/numbers";
import { Fold, useWide } from "../../parts/Fold";
import { say } from "../../parts/Undo";

export type Pair = { a: string; b: string };
type Evidence = Schemas["Evidence"];
type Verdict = Schemas["AirVerdict"];

type Filters = { bands: string; km: string; toward: string; hours: string; power: string };
const everything: Filters = { bands: "", km: "", toward: "", hours: "", power: "" };

const distances = [
  ["", "near and far"],
  ["0-800", "nearer than 800 km"],
  ["800-3000", "800 to 3000 km"],
  ["3000-", "farther than 3000 km"],
];
const ways = [
  ["", "all directions"],
  ["0", "to the north"],
  ["45", "to the north-east"],
  ["90", "to the east"],
  ["135", "to the south-east"],
  ["180", "to the south"],
  ["225", "to the south-west"],
  ["270", "to the west"],
  ["315", "to the north-west"],
];
const times = [
  ["", "all hours"],
  ["0-6", "0 to 6 UTC"],
  ["6-12", "6 to 12 UTC"],
  ["12-18", "12 to 18 UTC"],
  ["18-24", "18 to 24 UTC"],
];

const powers = [
  ["", "all powers"],
  ["0-1", "up to 1 W"],
  ["1-10", "1 to 10 W"],
  ["10-", "10 W and more"],
];

const range = (text: string): [number | undefined, number | undefined] => {
  const [lo = undefined, hi = undefined] = text.split("-").map((v) => (v ? Number(v) : undefined));
  return [lo || undefined, hi];
};

/** What a choice of filters asks for. */
function asked(pair: Pair, f: Filters) {
  const [least_km, most_km] = range(f.km);
  const [from_hour, until_hour] = range(f.hours);
  const [least_w, most_w] = range(f.power);
  const toward = f.toward === "" ? undefined : Number(f.toward);
  return { ...pair, bands: f.bands || undefined, least_km, most_km, toward, from_hour, until_hour, least_w, most_w };
}

const share = (p: number) => (p < 0.001 ? "less than 0.1" : (100 * p).toFixed(p < 0.01 ? 1 : 0));
const luck = (p: number | null) => (p === null ? "" : `; luck alone would differ so in ${share(p)} % of cases`);

/** Of how much a verdict is. */
const counts = (v: Verdict, hearing?: boolean) => {
  const where = v.band ? `${metres(v.band)}: ` : "";
  const only = hearing
    ? `${v.only_a} heard with ${v.a} only, ${v.only_b} with ${v.b} only`
    : `${v.only_a} heard only ${v.a}, ${v.only_b} only ${v.b}`;
  const of = `${many(v.receivers, hearing ? "station" : "receiver")}, ${many(v.reports, "report")}, ${v.slots_a} and ${v.slots_b} slots`;
  return `${where}${of}; ${only}${luck(v.test_p)}.`;
};

const told = (v: Verdict) => {
  const [at, lo, hi] = [v.difference_db, v.lo_db, v.hi_db].map((x) => signed(x ?? 0));
  return `${v.band ? metres(v.band) : "all bands"}: ${at} dB, ${lo} to ${hi}`;
};

/** Verdicts as intervals over a line of decibels: what lies to one side of none is told apart, and is drawn filled. */
function Intervals({ of, names, hearing }: { of: Verdict[]; names: [string, string]; hearing?: boolean }) {
  const wide = useWide();
  const known = of.filter((v) => v.lo_db !== null && v.hi_db !== null);
  if (known.length === 0) return null;
  const width = wide ? 720 : 370;
  const left = 92;
  const least = Math.max(-40, Math.min(-3, ...known.map((v) => v.lo_db ?? 0)));
  const most = Math.min(40, Math.max(3, ...known.map((v) => v.hi_db ?? 0)));
  const x = scaleLinear([least, most], [left, width - 24]).nice();
  const [from = least, until = most] = x.domain();
  const row = 46;
  const base = known.length * row + 14;
  const clip = (v: number) => Math.min(until, Math.max(from, v));
  return (
    <figure>
      <svg viewBox={`0 0 ${width} ${base + 44}`} width="100%" role="img" aria-label={known.map(told).join("; ")}>
        {x.ticks(wide ? 7 : 5).map((t) => (
          <g key={t}>
            <path d={`M${x(t)} 6V${base}`} stroke="var(--hairline)" strokeWidth={t === 0 ? 0 : 1} />
            <text x={x(t)} y={base + 18} textAnchor="middle" fontSize="14" className="mono" fill="var(--ink)">
              {t === 0 ? "0" : signed(t).replace(".0", "")}
            </text>
          </g>
        ))}
        <path d={`M${x(0)} 6V${base}`} stroke="var(--ink)" strokeWidth="2" strokeDasharray="2 4" />
        {known.map((v, i) => {
          const y = 30 + i * row;
          const [lo, hi, at] = [v.lo_db ?? 0, v.hi_db ?? 0, v.difference_db ?? 0];
          const apart = lo > 0 || hi < 0;
          return (
            <g key={v.band ?? "all"}>
              <text x="0" y={y + 6} fontSize="16" fontWeight="700" fill="var(--ink)">
                {v.band ? metres(v.band) : "all"}
              </text>
              <path
                d={`M${x(clip(lo))} ${y}H${x(clip(hi))}M${x(clip(lo))} ${y - 8}v16M${x(clip(hi))} ${y - 8}v16`}
                stroke="var(--ink)"
                strokeWidth="3"
                fill="none"
              />
              <circle cx={x(clip(at))} cy={y} r="8" fill={apart ? "var(--ink)" : "var(--paper)"} stroke="var(--ink)" strokeWidth="3" />
              <text x={x(clip(at))} y={y - 13} textAnchor="middle" fontSize="15" fontWeight="700" className="mono" fill="var(--ink)">
                {signed(at)}
              </text>
            </g>
          );
        })}
        <text x={left} y={base + 38} fontSize="14" fill="var(--ink)">
          ◂ {names[1]}
        </text>
        <text x={width - 24} y={base + 38} textAnchor="end" fontSize="14" fill="var(--ink)">
          {names[0]} ▸
        </text>
      </svg>
      <figcaption className="small soft">
        {hearing ? "Difference of the SNR heard, in decibels" : "Difference of the reported SNR, in decibels"}, with 95 % intervals. Filled:
        a clear difference; open: none found.
      </figcaption>
    </figure>
  );
}

/** What an average over reports would say, and why it misleads. */
function Naive({ of: v }: { of: Verdict }) {
  if (v.naive_db === null || v.median_db === null) return null;
  const silent = v.silent_a + v.silent_b;
  return (
    <p className="small soft">
      An average over reports says {signed(v.naive_db)} dB, the medians {signed(v.median_db)} dB.{" "}
      {silent > 0
        ? `They leave out the ${silent} of ${v.listened_a + v.listened_b} slots in which a receiver listened and heard nothing: ` +
          `${v.silent_a} of ${v.a}, ${v.silent_b} of ${v.b}.`
        : "Whoever is reported often counts for more in them than others, and what was too weak is left out."}
    </p>
  );
}

const first = 10;

/** What each receiver heard of both; one opens to its reports. */
function Receivers({ of: e, pair, filters }: { of: Evidence; pair: Pair; filters: Filters }) {
  const [all, setAll] = useState(false);
  const [open, setOpen] = useState("");
  const list = e.receivers ?? [];
  const v = e.parts?.[0];
  if (!v || list.length === 0) return null;
  return (
    <>
      <div className="scroll noprint" tabIndex={0} role="region" aria-label={`${e.hearing ? "Stations" : "Receivers"}, ${e.kind}`}>
        <table className="small">
          <thead>
            <tr>
              <th>{e.hearing ? "Station" : "Receiver"}</th>
              <th>{e.hearing ? `with ${v.a}` : `${v.a} heard`}</th>
              <th>{e.hearing ? `with ${v.b}` : `${v.b} heard`}</th>
              <th>dB</th>
              <th>km</th>
              <th>°</th>
            </tr>
          </thead>
          <tbody>
            {(all ? list : list.slice(0, first)).map((r) => (
              <tr key={r.receiver}>
                <td>
                  <button
                    type="button"
                    className="linkbtn mono slim"
                    aria-expanded={open === r.receiver}
                    onClick={() => setOpen(open === r.receiver ? "" : r.receiver)}
                  >
                    {r.receiver}
                  </button>
                </td>
                <td className="mono">{e.hearing ? r.heard_a : `${r.heard_a} of ${r.of_a}`}</td>
                <td className="mono">{e.hearing ? r.heard_b : `${r.heard_b} of ${r.of_b}`}</td>
                <td className="mono">{r.difference_db === null ? "" : signed(r.difference_db)}</td>
                <td className="mono">{r.distance_m === null ? "" : (r.distance_m / 1000).toFixed(0)}</td>
                <td className="mono">{r.bearing === null ? "" : r.bearing.toFixed(0)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {!all && list.length > first && (
        <button type="button" className="linkbtn noprint" onClick={() => setAll(true)}>
          The other {list.length - first} {e.hearing ? "stations" : "receivers"}
        </button>
      )}
      {open && <Reports pair={pair} filters={filters} receiver={open} own={e.hearing ?? false} />}
    </>
  );
}

/** The reports of a station that a verdict comes from; one that is wrong is set aside with a reason. Own are of what one heard. */
function Reports({ pair, filters, receiver, own }: { pair: Pair; filters: Filters; receiver: string; own: boolean }) {
  const list = useGet("/api/weigh/reports", { query: { ...asked(pair, filters), receiver } }, { keep: true });
  const [at, setAt] = useState("");
  const [reason, setReason] = useState("");
  const [told, setTold] = useState("");
  const put = async (id: string, why: string) => {
    setTold("");
    try {
      await send("put", "/api/reports/{id}/aside", { id }, { reason: why }, why ? `Report excluded: ${why}` : "Report included again");
      setAt("");
      setReason("");
      say(why ? "Report excluded." : "Report included.", () => put(id, why ? "" : "brought back"));
    } catch (e) {
      setTold(e instanceof Trouble ? e.whole : String(e));
    }
  };
  return (
    <div className="scroll low noprint" tabIndex={0} role="region" aria-label={`Reports of ${receiver}`}>
      <table className="small">
        <tbody>
          {list.data
            ?.filter((x) => (x.report.own ?? false) === own)
            .map(({ report: r, antenna }) => (
              <tr key={r.id}>
                <td className="mono">{r.at.slice(0, 16).replace("T", " ")}</td>
                <td className="mono">{r.band && metres(r.band)}</td>
                <td>{antenna}</td>
                <td className="mono">{r.snr_db} dB</td>
                <td className="mono">{r.power_w === null ? "" : `${r.power_w} W`}</td>
                <td>
                  {r.set_aside ? (
                    <>
                      set aside: {r.set_aside}{" "}
                      <button type="button" className="linkbtn slim" onClick={() => void put(r.id ?? "", "")}>
                        Include it
                      </button>
                    </>
                  ) : at === r.id ? (
                    <form
                      className="row"
                      onSubmit={(e) => {
                        e.preventDefault();
                        if (reason.trim()) void put(r.id ?? "", reason);
                        else setTold("Give a reason: the comparison uses all reports that are not excluded.");
                      }}
                    >
                      <input
                        className="find"
                        aria-label="Reason"
                        value={reason}
                        // biome-ignore lint/a11y/noAutofocus: it was just opened to be typed into
                        autoFocus
                        onChange={(e) => setReason(e.target.value)}
                      />
                      <Button type="submit" variant="outlined">
                        Exclude it
                      </Button>
                    </form>
                  ) : (
                    <button
                      type="button"
                      className="linkbtn slim"
                      aria-label={`Set aside the report of ${r.at.slice(11, 16)}`}
                      onClick={() => setAt(r.id ?? "")}
                    >
                      set aside
                    </button>
                  )}
                </td>
              </tr>
            ))}
        </tbody>
      </table>
      {told && (
        <p className="small" role="alert">
          {told}
        </p>
      )}
    </div>
  );
}

function Pick({ label, value, of, onChange }: { label: string; value: string; of: string[][]; onChange: (v: string) => void }) {
  return (
    <select className="pick" aria-label={label} value={value} onChange={(e) => onChange(e.target.value)}>
      {of.map(([v, name]) => (
        <option key={v} value={v}>
          {name}
        </option>
      ))}
    </select>
  );
}

/** What the air says of two antennas: each kind of evidence for itself, the strongest first, down to the single report. */
export function Air({
  pair,
  start,
  names,
  outings,
}: {
  pair: Pair;
  start: Evidence[];
  names: [string, string];
  outings: { id: string; name: string }[];
}) {
  const [f, setF] = useState(everything);
  const plain = f === everything;
  const filtered = useGet("/api/weigh/air", plain ? null : { query: asked(pair, f) }, { keep: true });
  const list = plain ? start : (filtered.data ?? []);
  const bands = [...new Set(start.flatMap((e) => (e.parts ?? []).map((v) => v.band ?? "")))].filter(Boolean);
  const put = (change: Partial<Filters>) => {
    const next = { ...f, ...change };
    setF(Object.values(next).every((v) => v === "") ? everything : next);
  };
  const fromRuns = start.some((e) => (e.receivers ?? []).length > 0);
  const query = new URLSearchParams(
    Object.entries(asked(pair, f)).flatMap(([k, v]) => (v === undefined ? [] : [[k, String(v)]])),
  ).toString();
  return (
    <section className="stack air" aria-label="On-air evidence">
      <h2>On-air evidence, strongest first</h2>
      {fromRuns && (
        <div className="row noprint">
          <Pick
            label="Band"
            value={f.bands}
            of={[["", "all bands"], ...bands.map((b) => [b, metres(b)])]}
            onChange={(v) => put({ bands: v })}
          />
          <Pick label="Distance" value={f.km} of={distances} onChange={(v) => put({ km: v })} />
          <Pick label="Direction" value={f.toward} of={ways} onChange={(v) => put({ toward: v })} />
          <Pick label="Hour" value={f.hours} of={times} onChange={(v) => put({ hours: v })} />
          <Pick label="Power" value={f.power} of={powers} onChange={(v) => put({ power: v })} />
        </div>
      )}
      {!plain && filtered.data?.length === 0 && <p>No receiver heard both antennas with these filters.</p>}
      {list.map((e) => (
        <div key={e.kind} className={`evidence stack tight ${e.strength}`}>
          <p>
            <b>{e.strength}</b>{" "}
            <span className="small soft">
              {e.kind}
              {(e.runs ?? 0) > 1 ? `, ${many(e.runs ?? 0, "run")}` : ""}
            </span>
            <span className="block">{e.says}</span>
          </p>
          <Intervals of={e.parts ?? []} names={names} hearing={e.hearing} />
          {(e.parts ?? []).some((v) => v.slots_a > 0 || v.reports > 0) && (
            <Fold name="Data behind it" says={(e.parts ?? []).length > 0 ? "slots, receivers, reports" : ""}>
              {(e.parts ?? [])
                .filter((v) => v.slots_a > 0)
                .map((v) => (
                  <p key={v.band ?? ""} className="small">
                    {counts(v, e.hearing)}
                  </p>
                ))}
              {e.parts?.[0] && <Naive of={e.parts[0]} />}
              <Receivers of={e} pair={pair} filters={f} />
              {e === list[0] && fromRuns && (
                <p className="noprint">
                  <a className="linkbtn" href={`/api/weigh/data.csv?${query}`} download="weighed.csv">
                    Slots and reports as CSV
                  </a>{" "}
                  {outings.map((o) => (
                    <a key={o.id} className="linkbtn" href={`/api/outings/${o.id}/bundle.zip`} download={`${o.name}.zip`}>
                      {o.name} as a bundle for another notebook
                    </a>
                  ))}
                </p>
              )}
            </Fold>
          )}
        </div>
      ))}
    </section>
  );
}
