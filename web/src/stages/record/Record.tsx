import { scaleLinear, scaleLog } from "d3-scale";
import { useState } from "react";
import { Link } from "react-router";
import { type Schemas, useGet } from "../../api/client";
import { many, metres, signed } from "../../draw/numbers";
import { Fold, useWide } from "../../parts/Fold";
import { Opening } from "../../parts/Opening";
import "../../draw/plot.css";
import "../../parts/fields.css";
import "./record.css";

type Rank = Schemas["Rank"];

/** Text keeps clear of the lines that it stands on. */
const clear = { paintOrder: "stroke", stroke: "var(--paper)", strokeWidth: 5 };

/** Antennas by where they stand: the level on an ordinary outing with its interval, and what was seen as an open ring. */
function Standings({ of: r, at }: { of: Rank; at: string }) {
  const wide = useWide();
  const width = wide ? 620 : 370;
  const rate = r.by === "contacts";
  const lows = r.rows.flatMap((x) => [x.lo, x.seen]);
  const highs = r.rows.flatMap((x) => [x.hi, x.seen]);
  const range = [16, width - 16];
  const x = rate
    ? scaleLog([Math.max(0.2, Math.min(...lows)), Math.min(2000, Math.max(...highs))], range).nice()
    : scaleLinear([Math.min(-2, ...lows), Math.max(2, ...highs)], range).nice();
  const [from = 0, until = 0] = x.domain();
  const clip = (v: number) => x(Math.min(until, Math.max(from, v)));
  const row = 58;
  const base = r.rows.length * row + 8;
  const figure = (v: number) => (rate ? v.toFixed(0) : signed(v));
  const ticks = rate ? [0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000].filter((t) => t >= from && t <= until) : x.ticks(wide ? 7 : 5);
  return (
    <figure>
      <svg
        viewBox={`0 0 ${width} ${base + 40}`}
        width="100%"
        role="img"
        aria-label={r.rows.map((s) => `${s.name}: ${figure(s.level)}, ${figure(s.lo)} to ${figure(s.hi)}`).join("; ")}
      >
        {ticks.map((t) => (
          <g key={t}>
            <path d={`M${x(t)} 4V${base}`} stroke="var(--hairline)" strokeDasharray={!rate && t === 0 ? "3 4" : undefined} />
            <text x={x(t)} y={base + 18} textAnchor="middle" fontSize="14" className="mono" fill="var(--ink)">
              {rate ? t : signed(t).replace(".0", "")}
            </text>
          </g>
        ))}
        {r.rows.map((s, i) => {
          const y = 38 + i * row;
          return (
            <g key={s.key}>
              <text x="4" y={y - 18} fontSize="16" fontWeight={s.key === at ? 800 : 600} fill="var(--ink)" {...clear}>
                {s.name}
              </text>
              <text x={width - 4} y={y - 18} fontSize="14" textAnchor="end" className="mono" fill="var(--ink)" {...clear}>
                {figure(s.level)} ({figure(s.lo)} to {figure(s.hi)})
              </text>
              <path
                d={`M${clip(s.lo)} ${y}H${clip(s.hi)}M${clip(s.lo)} ${y - 7}v14M${clip(s.hi)} ${y - 7}v14`}
                stroke="var(--ink)"
                strokeWidth="3"
                fill="none"
              />
              {rate && <circle cx={clip(s.seen)} cy={y} r="9" fill="none" stroke="var(--ink)" strokeWidth="1.5" strokeDasharray="3 2" />}
              <path d={`M${clip(s.level)} ${y - 9}l8 9l-8 9l-8-9z`} fill="var(--ink)" />
            </g>
          );
        })}
        <text x={width - 4} y={base + 37} textAnchor="end" fontSize="14" fill="var(--ink)">
          {rate ? "contacts per hour on a typical outing" : "dB relative to the average antenna"}
        </text>
      </svg>
      <figcaption className="small soft">
        Diamond: estimate; bar: 95 % interval.
        {rate && " Dashed ring: as measured, before it was shrunk towards the average; the shorter the use, the more it is shrunk."}
      </figcaption>
    </figure>
  );
}

/** What one antenna did, by outing. */
function Past({ id }: { id: string }) {
  const history = useGet("/api/deployments/{id}/history", { path: { id } }, { keep: true });
  const h = history.data;
  if (!h) return <Opening of={[history]} />;
  return (
    <section className="stack tight" aria-label="History">
      <h2>
        {h.antenna.name}: {many(h.antenna.set_ups, "set-up")} at {many(h.antenna.outings, "outing")}
      </h2>
      <ol className="stack plain past">
        {h.past.map((p) => (
          <li key={p.id}>
            <p>
              <Link to={`/o/${p.outing_id}/weigh`} className="title">
                {p.outing}
              </Link>{" "}
              <span className="mono small">{p.date}</span>{" "}
              <span className="small soft">
                as {p.name}
                {p.site && `, ${p.site.toLowerCase()}`}
              </span>
            </p>
            {p.bands.map((b) => (
              <p key={b.band} className="small">
                <b className="mono">{metres(b.band)}</b>{" "}
                {b.contacts > 0 &&
                  (b.per_hour > 0
                    ? `${many(b.contacts, "contact")}, ${b.per_hour.toFixed(0)} per hour (${b.lo.toFixed(0)} to ${b.hi.toFixed(0)}). `
                    : `${many(b.contacts, "contact")}. `)}
                {b.beside.map((v) => `Beside ${v.b}: ${v.says}`).join(" ")}
              </p>
            ))}
            {p.bands.length === 0 && <p className="small soft">No contacts with it there.</p>}
            {p.lesson && <p className="small">“{p.lesson}”</p>}
          </li>
        ))}
      </ol>
      <p className="small soft">
        Set-ups of one antenna are those laid out from each other by recipes, and those of one kind and name. Time is counted before each
        contact, breaks of over an hour left out.
      </p>
    </section>
  );
}

/** What the antennas did over all outings: which is the best by band and kind of site, and each one's history. */
export default function Record() {
  const record = useGet("/api/record");
  const [band, setBand] = useState("");
  const [site, setSite] = useState("");
  const [at, setAt] = useState("");
  const d = record.data;
  if (!d) return <Opening of={[record]} />;
  if (d.ranks.length === 0)
    return (
      <div className="say">
        <h1>No antenna records yet.</h1>
        <p>Log contacts with an antenna in use, or run two antennas in turn as beacons; this page then shows which did best, and where.</p>
        {d.antennas.length > 0 && <Past id={d.antennas[0]?.key ?? ""} />}
      </div>
    );
  const bands = [...new Set(d.ranks.map((r) => r.band))];
  const now = bands.includes(band) ? band : (d.first?.band ?? bands[0] ?? "");
  const sites = [...new Map(d.ranks.filter((r) => r.band === now).map((r) => [r.site, r.site_name])).entries()];
  const where = sites.some(([s]) => s === site) ? site : "";
  const ranks = d.ranks.filter((r) => r.band === now && r.site === where);
  const head = d.first?.says ?? d.ranks[0]?.says ?? "";
  const shown = at || ranks[0]?.rows[0]?.key || "";
  return (
    <>
      <div className="say">
        <h1>{head}</h1>
      </div>
      <div className="row">
        <div className="faces noprint" role="group" aria-label="Band">
          {bands.map((b) => (
            <button key={b} type="button" className="mono" aria-pressed={b === now} onClick={() => setBand(b)}>
              {metres(b)}
            </button>
          ))}
        </div>
        {sites.length > 1 && (
          <select className="pick" aria-label="Kind of site" value={where} onChange={(e) => setSite(e.target.value)}>
            {sites.map(([s, name]) => (
              <option key={s} value={s}>
                {name}
              </option>
            ))}
          </select>
        )}
      </div>
      <div className="wide">
        <div className="stack">
          {ranks.map((r) => (
            <section key={`${r.by}${r.simulated}`} className="stack tight" aria-label={r.by === "turns" ? "Beacon runs" : "Contacts"}>
              <h2>
                {r.by === "turns" ? "From beacon runs" : "From contacts"}
                {r.simulated && ", simulated"}
              </h2>
              {r.says !== head && <p>{r.says}</p>}
              <Standings of={r} at={shown} />
              {r.by === "contacts" && r.rows.length > 1 && (
                <p className="small soft">
                  Outings of one antenna differ by a factor of {r.between_outings.toFixed(1)} or so, antennas by{" "}
                  {r.between_antennas.toFixed(1)}: learned from your log, and from what is usual while it is short. Contacts say as much of
                  the day as of the antenna.
                </p>
              )}
            </section>
          ))}
        </div>
        <div className="stack">
          <Fold name="History" says="by outing">
            <label className="row noprint">
              History of{" "}
              <select className="pick" value={shown} onChange={(e) => setAt(e.target.value)}>
                {d.antennas.map((a) => (
                  <option key={a.key} value={a.key}>
                    {a.name}
                  </option>
                ))}
              </select>
            </label>
            {shown && <Past id={shown} />}
          </Fold>
        </div>
      </div>
    </>
  );
}
