import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { scaleLinear } from "d3-scale";
import { lazy, Suspense, useState } from "react";
import { Link } from "react-router";
import { type Schemas, useDeployment, useGet, useMe, wrong } from "../../api/client";
import { send } from "../../api/outbox";
import { metres, unbroken } from "../../draw/numbers";
import type { Stroke } from "../../draw/SwrPlot";
import { Below } from "../../parts/Below";
import { useDraft } from "../../parts/draft";
import { Tables } from "../../parts/Figures";
import { Fold, useWide } from "../../parts/Fold";
import { Asked } from "../../parts/Forecast";
import { Opening } from "../../parts/Opening";
import { Stages, watts } from "../../parts/Stages";
import { Tag } from "../../parts/Tag";
import { type Computing, useComputed } from "../../parts/useComputed";
import { Air, type Pair } from "./Air";
import { Foretold } from "./Foretold";
import { GroupTag, idOf, Several } from "./Several";
import "../../draw/plot.css";
import "../../parts/fields.css";
import "./weigh.css";

const SwrPlot = lazy(() => import("../../draw/SwrPlot"));

const said = (name: string, v: Schemas["Air"]) => `${name} ${v.rated ? v.per_hour.toFixed(1) : "too few for a rate"}`;

/** A rate with its interval, as a plain picture, drawn for the room that there is. */
function Rates({ view }: { view: Schemas["WeighView"] }) {
  const { a, b } = view.comparison;
  const width = useWide() ? 720 : 370;
  if (!a.rated && !b.rated) return null;
  const x = scaleLinear([0, Math.max(a.rate_hi, b.rate_hi, 1)], [width === 720 ? 150 : 90, width - 30]).nice();
  const ticks = x.ticks(width === 720 ? 6 : 4);
  return (
    <figure className="rates">
      <svg
        viewBox={`0 0 ${width} 150`}
        width="100%"
        role="img"
        aria-label={`Contacts per hour: ${said(view.a.tag.name, a)}, ${said(view.b.tag.name, b)}`}
      >
        {ticks.map((t) => (
          <g key={t}>
            <path d={`M${x(t)} 8V116`} stroke="var(--hairline)" />
            <text x={x(t)} y="138" textAnchor="middle" fontSize="15" className="mono" fill="var(--ink)">
              {t}
            </text>
          </g>
        ))}
        {[
          { name: view.a.tag.name, v: a, y: 38, color: "var(--copper)" },
          { name: view.b.tag.name, v: b, y: 88, color: "var(--ink)" },
        ].map((s) => (
          <g key={s.name}>
            <text x="0" y={s.y + 6} fontSize="18" fontWeight="700" fill="var(--ink)">
              {s.name}
            </text>
            {s.v.rated && (
              <g>
                <path d={`M${x(s.v.rate_lo)} ${s.y}H${x(s.v.rate_hi)}`} stroke={s.color} strokeWidth="9" opacity="0.35" />
                <circle cx={x(s.v.per_hour)} cy={s.y} r="8" fill={s.color} />
                <text
                  x={x(s.v.per_hour)}
                  y={s.y - 14}
                  textAnchor="middle"
                  fontSize="17"
                  fontWeight="700"
                  className="mono"
                  fill="var(--ink)"
                >
                  {s.v.per_hour.toFixed(1)}
                </text>
              </g>
            )}
          </g>
        ))}
      </svg>
      <figcaption className="small soft">Contacts per hour, from the gaps between them. Bars: 95 % intervals.</figcaption>
    </figure>
  );
}

function Lesson({ id, name }: { id: string; name: string }) {
  const detail = useDeployment(id);
  const d = detail.data?.deployment;
  const [draft, setDraft, forget] = useDraft<{ text: string; version: number } | null>(`lesson-of:${id}`, null);
  const [told, setTold] = useState("");
  if (!d) return null;
  const text = draft?.text ?? d.lesson ?? "";
  const base = draft?.version ?? d.version;
  return (
    <form
      className={text ? "stack tight" : "stack tight noprint"}
      onSubmit={async (e) => {
        e.preventDefault();
        const done = await send(
          "put",
          "/api/deployments/{id}",
          { id: id },
          { outing_id: d.outing_id, name: d.name, plan: d.plan, lesson: text },
          `Notes on ${name}`,
          base,
        ).catch((x: Error) => setTold(x.message));
        if (done) forget();
        setTold(done ? "Saved." : "No connection: saved on this device, synced later.");
      }}
    >
      <TextField
        label={`The lesson of ${name}`}
        name={`lesson-${name}`}
        multiline
        minRows={2}
        value={text}
        onChange={(e) => setDraft({ text: e.target.value, version: base })}
      />
      <div>
        <Button type="submit" variant="outlined">
          Save notes
        </Button>{" "}
        <span role="status">{told}</span>
      </div>
    </form>
  );
}

const km = (v: number, n: number) => (n > 0 ? `${v.toFixed(0)} km` : "not known");

/** Facts of two sides, line by line. */
function Pairs({ names, rows }: { names: [string, string]; rows: [string, string, string][] }) {
  return (
    <div className="scroll">
      <table className="wrap">
        <thead>
          <tr>
            <th />
            <th>{names[0]}</th>
            <th>{names[1]}</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(([what, a, b]) => (
            <tr key={what}>
              <td>{what}</td>
              <td className="mono">{a}</td>
              <td className="mono">{b}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Sides({ view }: { view: Schemas["WeighView"] }) {
  const c = view.comparison;
  const [na, nb] = [view.a.tag.name, view.b.tag.name];
  const air: [string, string, string][] = [
    ["contacts", String(c.a.contacts), String(c.b.contacts)],
    [
      "contacts per hour",
      c.a.rated ? `${c.a.per_hour.toFixed(1)} (${c.a.rate_lo.toFixed(1)} to ${c.a.rate_hi.toFixed(1)})` : "too few for a rate",
      c.b.rated ? `${c.b.per_hour.toFixed(1)} (${c.b.rate_lo.toFixed(1)} to ${c.b.rate_hi.toFixed(1)})` : "too few for a rate",
    ],
    ["distance, median", km(c.a.median_km, c.a.located), km(c.b.median_km, c.b.located)],
    ["farthest", `${km(c.a.far_km, c.a.located)} ${c.a.farthest ?? ""}`, `${km(c.b.far_km, c.b.located)} ${c.b.farthest ?? ""}`],
    ["bands", c.a.bands.map(metres).join(", ") || "none", c.b.bands.map(metres).join(", ") || "none"],
    ["power", c.a.power_w ? `${c.a.power_w} W` : "not known", c.b.power_w ? `${c.b.power_w} W` : "not known"],
  ];
  return (
    <>
      <Fold head name="What differs in the set-up" says={c.differences.map((d) => d.label).join(", ")}>
        <Pairs names={[na, nb]} rows={c.differences.map((d) => [d.label, d.a, d.b])} />
        {c.differences.length === 0 && <p>No recorded difference.</p>}
      </Fold>
      <Fold head name="On the air" says={`${c.a.contacts} and ${c.b.contacts} contacts`}>
        <Pairs names={[na, nb]} rows={air} />
      </Fold>
    </>
  );
}

/** What each costs to put up and carry. */
function Takes({ view }: { view: Schemas["WeighView"] }) {
  const rows = view.comparison.efforts;
  return (
    <Fold head name="Cost" says={rows.map((d) => d.label).join(", ")}>
      <Pairs names={[view.a.tag.name, view.b.tag.name]} rows={rows.map((d) => [d.label, d.a, d.b])} />
    </Fold>
  );
}

function Bands({ view, pickBand }: { view: Schemas["WeighView"]; pickBand: (b: string) => void }) {
  const c = view.comparison;
  const [na, nb] = [view.a.tag.name, view.b.tag.name];
  const cell = (x: Schemas["Cell"]) => (
    <>
      <td className="mono">
        {x.measured ? x.min_swr.toFixed(2) : "not swept"}
        {x.measured && (
          <span className="small soft block">
            at {(x.min_at / 1e6).toFixed(3)}, {x.coverage.toFixed(0)} %{x.width && `, ${x.width} under 2`}
          </span>
        )}
      </td>
      <td className="mono">
        {x.loss_kind === "none recorded" ? "no coax" : `${x.loss_db.toFixed(2)} dB`}
        <span className="small soft block">
          {x.loss_kind === "none recorded" ? "" : `${x.loss_kind}, ${x.arrives_percent.toFixed(0)} % arrives`}
        </span>
      </td>
    </>
  );
  return (
    <Fold head name="Match and cable, by band" says={c.rows.map((r) => metres(r.band)).join(", ")}>
      <div className="scroll" tabIndex={0} role="region" aria-label="Match and cable by band">
        <table className="wrap">
          <thead>
            <tr>
              <th>Band</th>
              <th>{na}: lowest SWR</th>
              <th>in its cable</th>
              <th>{nb}: lowest SWR</th>
              <th>in its cable</th>
            </tr>
          </thead>
          <tbody>
            {c.rows.map((r) => (
              <tr key={r.band}>
                <td>
                  <button
                    type="button"
                    className="linkbtn mono slim named nobreak"
                    onClick={() => pickBand(r.band)}
                    aria-pressed={r.band === view.band}
                  >
                    {metres(r.band)}
                  </button>
                </td>
                {cell(r.a)}
                {cell(r.b)}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </Fold>
  );
}

/** Where the power of each goes on the band at hand, from the radio to the sky. */
function Losses({ of }: { of: NonNullable<Schemas["ModelAnswer"]["losses"]> }) {
  const here = of.filter((l) => l.band === of[0]?.band);
  if (here.length === 0) return null;
  return (
    <Fold name="Where the power goes" says={metres(here[0]?.band ?? "")}>
      {here.map((l) => (
        <div key={l.name} className="stack tight">
          <p className="small">
            <b>{l.name}</b>: of <span className="mono">{watts(l.power_w)} W</span> on {metres(l.band)}{" "}
            <span className="mono tide">{watts(l.budget[l.budget.length - 1]?.watts ?? 0)} W</span> are radiated
          </p>
          <Stages of={l.budget} power={l.power_w} />
        </div>
      ))}
    </Fold>
  );
}

/** What the model says of both, from what is recorded: where nothing was logged it is all that there is. */
function Modelled({ of: c }: { of: Computing<Schemas["ModelAnswer"]> }) {
  return (
    <section className="stack tight modelled" aria-label="By the model">
      <Asked of={c} what="computing both" />
      <div className="beside">
        <div className="noprint stack tight">
          <Tables of={c.result?.tables ?? []} />
        </div>
        <Losses of={c.result?.losses ?? []} />
      </div>
    </section>
  );
}

/** What can be weighed: single set-ups, those of this outing first, and several as one. */
function Choices({
  tags,
  groups,
  picked,
  onPick,
}: {
  tags: Schemas["PlacedTag"][];
  groups: Schemas["GroupInfo"][];
  picked: string[];
  onPick: (id: string) => void;
}) {
  return (
    <div className="tagrow noprint" role="group" aria-label="Antennas to weigh">
      {tags.map((t) => (
        <Tag
          key={t.tag.id}
          tag={t.tag}
          pressed={picked.some((p) => idOf(p) === t.tag.id)}
          onClick={() => onPick(t.tag.id)}
          below={`${t.outing}, ${t.date}`}
        />
      ))}
      {groups.map((g) => (
        <GroupTag key={g.id} of={g} pressed={picked.includes(g.id)} onClick={() => onPick(g.id)} />
      ))}
    </div>
  );
}

/** How one stood, for who reads it on paper: what setting up took by the clock, and its pictures. */
function Stood({ id, name }: { id: string; name: string }) {
  const d = useDeployment(id).data;
  if (!d || (d.photos.length === 0 && d.clock_parts.length === 0)) return null;
  return (
    <figure className="stood">
      <figcaption>
        <b>{name}</b>
        {d.clock_parts.length > 0 && `: ${d.clock_parts.map((p) => p.text).join(", ")}, ${d.clock_minutes} min in total by the clock`}
      </figcaption>
      {d.photos.slice(0, mostPhotos).map((p) => (
        <figure key={p.id}>
          <img src={`/api/photos/${p.id}`} alt={p.caption || `${name} as it stood`} />
          {p.caption && <figcaption className="small">{p.caption}</figcaption>}
        </figure>
      ))}
    </figure>
  );
}

/** How many pictures of each go on paper. */
const mostPhotos = 2;

/** The page behind the answer, on paper alone: how it was worked out, and how both stood. */
function Method({ of: v }: { of: Schemas["WeighView"] }) {
  return (
    <section className="onpaper method" aria-label="Method">
      {v.evidence.length > 0 && (
        <>
          <h2>How this is computed</h2>
          <ul>
            {v.method.map((m) => (
              <li key={m}>{m}</li>
            ))}
          </ul>
        </>
      )}
      <p>
        {v.a.tag.name}: {v.a.outing}, {v.a.date}. {v.b.tag.name}: {v.b.outing}, {v.b.date}.
        {v.evidence.length > 0 && " The slots and reports themselves go with it as CSV."}
      </p>
      <Stood id={v.a.tag.id} name={v.a.tag.name} />
      {v.b.tag.id !== v.a.tag.id && <Stood id={v.b.tag.id} name={v.b.tag.name} />}
    </section>
  );
}

/** How many are weighed at once. */
const most = 5;

/** What of a choice still stands: what was deleted since cannot be unpicked by hand. */
function standing(picked: string[], tags?: Schemas["PlacedTag"][], groups?: Schemas["GroupInfo"][]) {
  if (!tags || !groups) return picked;
  return picked.filter((p) => groups.some((g) => g.id === p) || tags.some((t) => t.tag.id === idOf(p) && t.tag.state !== "planned"));
}

export default function Weigh({ outing }: { outing: Schemas["OutingDetail"] }) {
  const me = useMe();
  const tags = useGet("/api/tags");
  const groups = useGet("/api/groups");
  const usual = outing.tags.filter((t) => t.state !== "planned");
  const [kept, setPicked] = useDraft<string[]>(
    `weighed:${outing.outing.id}`,
    usual.slice(0, 2).map((t) => t.id),
  );
  const picked = standing(kept, tags.data, groups.data);
  const [against, setAgainst] = useState("");
  const [band, setBand] = useState("");
  const pair: Pair = { a: picked[0] ?? "", b: picked.includes(against) && against !== picked[0] ? against : (picked[1] ?? "") };
  const both = pair.a !== "" && pair.b !== "";
  const view = useGet("/api/weigh", both ? { query: { a: pair.a, b: pair.b, band } } : null, { keep: true });
  const v = both ? view.data : undefined;
  const model = useComputed("weigh", "beside", v && { a: pair.a, b: pair.b, band: v.band });
  if (!tags.data || !groups.data || !me.data) return <Opening of={[tags, groups, me]} />;
  if (both && !view.data && !view.error) return <Opening />;
  const weighed = tags.data.filter((t) => t.tag.state !== "planned");
  const here = [...weighed].sort((x, y) => Number(y.outing_id === outing.outing.id) - Number(x.outing_id === outing.outing.id));
  const pick = (id: string) => {
    setBand("");
    const there = picked.filter((p) => idOf(p) !== id);
    setPicked(there.length < picked.length ? there : [...picked, id].slice(-most));
  };
  // With little on the air the model's word comes first.
  const thin = !(v?.comparison.a.rated && v.comparison.b.rated);
  const strokes: Stroke[] = (v?.curves ?? []).map((c) => ({
    id: c.id,
    label: c.label,
    swr: c.swr as (number | null)[],
    kind: c.id === "a" ? "measured" : "second",
  }));
  return (
    <>
      <div className="say">
        <h1>
          {v
            ? unbroken(v.comparison.headline)
            : view.error
              ? wrong(view.error)
              : weighed.length < 2
                ? "Weigh needs two antennas that have been raised."
                : "Choose two antennas to compare."}
        </h1>
        {!v && <p>Weigh compares two antennas: their match, their losses, and the contacts and reports with each.</p>}
        {v && v.evidence.length === 0 && v.comparison.uncontrolled.length > 0 && (
          <p>Not the same for both: {v.comparison.uncontrolled.join("; ")}.</p>
        )}
      </div>
      <Choices tags={here} groups={groups.data} picked={picked} onPick={pick} />
      <Below>
        <Several picked={picked} tags={weighed} groups={groups.data} against={pair.b} onAgainst={setAgainst} onPicked={setPicked} />
        {v && v.evidence.length > 0 && (
          <Air
            key={`${pair.a} ${pair.b}`}
            pair={pair}
            start={v.evidence}
            names={[v.a.tag.name, v.b.tag.name]}
            outings={[v.a, v.b]
              .filter((x, i) => x.outing_id !== "" && (i === 0 || x.outing_id !== v.a.outing_id))
              .map((x) => ({ id: x.outing_id, name: x.outing }))}
          />
        )}
        {v && v.evidence.length > 0 && <Method of={v} />}
        {v?.evidence.some((e) => (e.receivers ?? []).length > 0) && <Foretold pair={pair} names={[v.a.tag.name, v.b.tag.name]} />}
        {both && thin && <Modelled of={model} />}
        {v && (
          <div className="wide answer">
            <div className="stack">
              {strokes.length > 0 && (
                <div className="plot">
                  <Suspense fallback={<p className="soft drawing low">Drawing…</p>}>
                    <SwrPlot
                      frequencies={v.frequencies}
                      strokes={strokes}
                      own={v.own ?? []}
                      limit={me.data.good_swr}
                      title={`SWR of ${v.a.tag.name} and ${v.b.tag.name} at the feed point on ${v.band}`}
                      height={300}
                    />
                  </Suspense>
                  <p className="small soft">At the feed point, on {metres(v.band)}; another band by its name in the table.</p>
                </div>
              )}
              <Rates view={v} />
              <ul className="assumed">
                {v.comparison.reasons.map((r) => (
                  <li key={r}>{r}</li>
                ))}
              </ul>
              <Takes view={v} />
              {!thin && <Modelled of={model} />}
            </div>
            <div className="stack">
              <Sides view={v} />
            </div>
          </div>
        )}
        {v && v.comparison.rows.length > 0 && <Bands view={v} pickBand={setBand} />}
        {v && v.evidence.length === 0 && <Method of={v} />}
        {v && (
          <div className="wide">
            <Fold name="Notes" says="for next time">
              <Lesson key={`${pair.a}1`} id={v.a.tag.id} name={v.a.tag.name} />
              {v.b.tag.id !== v.a.tag.id && <Lesson key={`${pair.b}2`} id={v.b.tag.id} name={v.b.tag.name} />}
            </Fold>
            <div className="row noprint">
              <Button variant="outlined" onClick={() => print()}>
                Print this
              </Button>
              <Link to="/record" className="linkbtn">
                Over all outings
              </Link>
            </div>
          </div>
        )}
      </Below>
    </>
  );
}
