import Button from "@mui/material/Button";
import { lazy, Suspense, useEffect, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { v7 as uuid } from "uuid";
import { type Schemas, Trouble, useDeployment, useGet, useMe, useReference } from "../../api/client";
import { send } from "../../api/outbox";
import type { Computed, Stroke } from "../../draw/SwrPlot";
import { useDraft } from "../../parts/draft";
import { Progress } from "../../parts/Forecast";
import { Picks } from "../../parts/fields";
import { Opening } from "../../parts/Opening";
import { remove } from "../../parts/Undo";
import { NoAntenna, useAntenna } from "../../parts/useAntenna";
import { useComputed } from "../../parts/useComputed";
import { Thread } from "../raise/Raise";
import { Attach } from "./Attach";
import { Marks } from "./Marks";
import { type Explanation, Why } from "./Why";

const SwrPlot = lazy(() => import("../../draw/SwrPlot"));
const FacePlot = lazy(() => import("../../draw/FacePlot"));
const OverviewPlot = lazy(() => import("../../draw/FacePlot").then((m) => ({ default: m.OverviewPlot })));

const faces = [
  ["swr", "SWR"],
  ["rx", "R and X"],
  ["loss", "return loss"],
  ["disc", "reflection"],
] as const;

const mhz = (hz: number) => (hz / 1e6).toFixed(3);
const swr = (v: number) => (v >= 100 ? "over 100" : v.toFixed(v < 10 ? 2 : 0));

function Numbers({ view }: { view: Schemas["ReadingView"] }) {
  const r = view.reading;
  if (!r) return null;
  const width = (limit: number) => {
    const w = r.widths?.find((x) => x.limit === limit);
    return w ? `${w.open ? "over " : ""}${Math.round(w.hz / 1000)} kHz` : "none";
  };
  const z = view.feed?.has_z ? view.feed : r;
  return (
    <dl className="facts">
      <div>
        <dt>lowest SWR</dt>
        <dd className="copper">
          {swr(r.min_swr)}
          <small>
            at <span className="mono">{mhz(r.min_at)}</span> MHz
          </small>
        </dd>
      </div>
      {view.feed && (
        <div>
          <dt>at the feed point</dt>
          <dd>
            {swr(view.feed.min_swr)}
            <small>without {view.cable}</small>
          </dd>
        </div>
      )}
      <div>
        <dt>R and X there</dt>
        <dd>
          {r.has_z ? `${z.r.toFixed(0)} ${z.x < -0.5 ? "−" : "+"} j${Math.abs(z.x).toFixed(0)} Ω` : "not known"}
          {!r.has_z && <small>only SWR was measured</small>}
        </dd>
      </div>
      <div>
        <dt>resonant, X = 0</dt>
        <dd>
          {z.resonances?.length
            ? z.resonances.slice(0, 2).map((x) => (
                <span key={x.f} style={{ display: "block" }}>
                  {mhz(x.f)}
                  <small>
                    {x.kind}, {x.r.toFixed(0)} Ω
                  </small>
                </span>
              ))
            : r.has_z
              ? "nowhere here"
              : "not known"}
        </dd>
      </div>
      <div>
        <dt>width under</dt>
        <dd style={{ fontSize: 14.5, lineHeight: 1.45 }}>
          1.5: {width(1.5)}
          <br />
          2: {width(2)}
          <br />
          3: {width(3)}
        </dd>
      </div>
      <div>
        <dt>segment under {r.limit}</dt>
        <dd>
          {r.own?.length ? `${r.coverage.toFixed(0)} %` : "none here"}
          <small>{r.edges?.map((e) => `${mhz(e.f)}: ${swr(e.swr)}`).join(", ")}</small>
        </dd>
      </div>
    </dl>
  );
}

export default function Sweep({ outing }: { outing: Schemas["OutingDetail"] }) {
  const go = useNavigate();
  const me = useMe();
  const { tag, row } = useAntenna(outing);
  const detail = useDeployment(tag?.id);
  const reference = useReference();
  const [look, setLook] = useDraft<string>(`look:${tag?.id}`, "curve");
  const [band, setBand] = useDraft<string>(`band:${tag?.id}`, "");
  const [revision, setRevision] = useState("");
  const view = useGet<Schemas["ReadingView"]>(tag ? `/api/deployments/${tag.id}/reading?band=${band}&revision=${revision}` : null, {
    keep: true,
  });
  const fresh = useRef(uuid());
  const [told, setTold] = useState("");
  // biome-ignore lint/correctness/useExhaustiveDependencies: another antenna begins at its newest revision
  useEffect(() => setRevision(""), [tag?.id]);
  const [face, setFace] = useDraft<string>("face", "swr");
  const [way, setWay] = useState("");
  const [otherEnd, setOtherEnd] = useState(false);
  const [cause, setCause] = useState<Explanation>();
  // biome-ignore lint/correctness/useExhaustiveDependencies: an explanation is of one sweep
  useEffect(() => setCause(undefined), [tag?.id, view.data?.revision_id, view.data?.band]);
  const ribbon = useRef<HTMLDivElement>(null);
  const shown = view.data?.band;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the ribbon follows the band that is shown
  useEffect(() => {
    const box = ribbon.current;
    const now = box?.querySelector<HTMLElement>('[aria-pressed="true"]');
    if (box && now) box.scrollLeft = now.offsetLeft - box.offsetLeft - box.clientWidth / 2 + now.clientWidth / 2;
  }, [shown]);

  const seen = view.data?.revision_id || detail.data?.revisions.at(-1)?.id;
  const computed = useComputed(
    "sweep",
    seen && shown
      ? {
          kind: "forecast",
          revision_id: seen,
          band: shown,
          outing_id: outing.outing.id,
          seen: detail.data?.revisions.reduce((n, r) => n + r.sweeps.length, 0),
        }
      : undefined,
    true,
  );

  const trimmable = view.data?.verdict?.tone === "long" || view.data?.verdict?.tone === "short";
  const advice = useComputed("trim", seen && trimmable ? { kind: "trim", revision_id: seen, outing_id: outing.outing.id } : undefined);

  if (!tag) return <NoAntenna outing={outing} />;
  if (!detail.data || !view.data || !me.data) return <Opening of={[detail, view, me]} />;
  const d = detail.data;
  const last = d.revisions[d.revisions.length - 1];
  if (!last)
    return (
      <>
        <div className="say">
          <h1>{tag.name} is planned, not up yet.</h1>
          <p>
            A sweep belongs to what was put up. <Link to={`/o/${outing.outing.id}/raise`}>Record it in Raise</Link> first.
          </p>
        </div>
        {row}
      </>
    );
  const settings = reference.data?.families.find((f) => f.id === tag.family)?.trims === "settings";
  const shows = (settings || look === "marks") && (
    <div className="noprint">
      <Picks
        legend="Look at"
        name="look"
        value={look}
        onChange={setLook}
        options={[
          { id: "curve", label: "the curve" },
          { id: "marks", label: "settings and marks" },
        ]}
      />
    </div>
  );
  if (look === "marks")
    return (
      <>
        {shows}
        <div className="two">
          <Marks key={tag.id} deployment={tag.id} unit={me.data.imperial ? "ft" : "m"} name={tag.name} />
          <aside className="stack noprint">{row}</aside>
        </div>
      </>
    );
  const w = view.data;
  const r = w.reading;
  const current = d.revisions.find((x) => x.id === (w.revision_id || revision)) ?? last;
  const strokes: Stroke[] = w.curves.map((c) => ({
    id: c.id,
    label: c.current ? `measured, ${c.label}` : `earlier, ${c.label}`,
    swr: c.swr as (number | null)[],
    kind: c.current ? "measured" : "earlier",
  }));
  if (otherEnd && w.other_end)
    strokes.push({ id: "other-end", label: w.other_end.label, swr: w.other_end.swr as (number | null)[], kind: "second" });
  strokes.sort((a, b) => Number(b.kind === "measured") - Number(a.kind === "measured"));
  // Through a cable the analyser saw what the radio sees, otherwise what the coax does.
  const foretold = computed.result?.forecast?.bands.find((b) => b.name === w.band);
  const curve: Computed | undefined = cause
    ? { points: cause.curve, label: `foretold if: ${cause.title.toLowerCase()}` }
    : foretold && {
        points: foretold.curve.map((p) => ({ hz: p.hz, swr: w.cable ? p.swr : p.feed_swr })),
        low: w.cable || !current.built.coax?.length?.m ? foretold.spread?.low : undefined,
        high: w.cable || !current.built.coax?.length?.m ? foretold.spread?.high : undefined,
        label: "computed for it as recorded",
      };
  // The advisor's word, from the solver and all sweeps so far, stands in place of the rule of proportion.
  const advised = advice.current ? advice.result?.trim : undefined;
  const ways = advised?.instead ? [advised, advised.instead] : [];
  const trim = ways.find((x) => x.way === way) ?? advised;
  const proposal = trim?.done ? undefined : (trim ?? w.proposal);
  const did = /^folded|^added/.exec(proposal?.reason ?? "")?.[0];
  const word = trim ??
    w.verdict ?? {
      headline: `No sweep of ${tag.name} in this band yet.`,
      detail: "Attach what the analyser wrote, or type a few SWR readings from the radio's meter.",
    };
  const accept = async () => {
    if (!proposal) return;
    const seq = d.revisions.length + 1;
    setRevision("");
    try {
      const done = await send(
        "PUT",
        `/api/revisions/${fresh.current}`,
        { deployment_id: tag.id, reason: proposal.reason, built: proposal.built },
        `r${seq} of ${tag.name}`,
      );
      fresh.current = uuid();
      setTold(done ? `Kept as r${seq}. Sweep again and attach it.` : "The link is down: kept here, and sent when it is back.");
    } catch (e) {
      setTold(e instanceof Trouble ? e.whole : String(e));
    }
  };
  const unswept = last.id !== current.id && !w.curves.some((c) => c.id === last.id) && r !== undefined;
  return (
    <>
      {shows}
      <div className="two">
        <div className="stack">
          <div className="say">
            <h1>{word.headline}</h1>
            <p>{word.detail}</p>
            {ways.length > 1 && (
              <Picks
                legend="Change"
                name="way"
                value={trim?.way ?? ""}
                onChange={setWay}
                options={ways.map((x) => ({ id: x.way ?? "", label: x.way ?? "" }))}
              />
            )}
            {w.hidden && (
              <p className="note error" role="status">
                {w.hidden}
              </p>
            )}
            {unswept && (
              <p>
                This is r{current.seq}; r{last.seq} ({last.reason}) is not swept yet.
              </p>
            )}
          </div>
          {r && (
            <div className="plot">
              <Suspense fallback={<p className="soft">Drawing…</p>}>
                {face === "swr" || !w.quantities ? (
                  <SwrPlot
                    frequencies={w.frequencies}
                    strokes={strokes}
                    own={r.own ?? []}
                    limit={r.limit}
                    computed={curve}
                    takes={w.spread}
                    dip={{
                      at: r.min_at,
                      swr: r.min_swr,
                      target: w.verdict && (w.verdict.tone === "long" || w.verdict.tone === "short") ? w.verdict.target_hz : undefined,
                    }}
                    title={`SWR of ${tag.name} on ${w.band}: lowest ${swr(r.min_swr)} at ${mhz(r.min_at)} MHz`}
                  />
                ) : (
                  <FacePlot
                    face={face}
                    of={w.quantities}
                    frequencies={w.frequencies}
                    own={r.own ?? []}
                    limit={r.limit}
                    at={r.min_at}
                    name={tag.name}
                  />
                )}
              </Suspense>
              <div className="faces" role="group" aria-label="What is drawn">
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
          )}
          <div className="row">
            {proposal && !unswept && (
              <Button variant="contained" onClick={() => void accept()}>
                {did === "folded" ? "Folded" : did === "added" ? "Added" : "Changed"}, make it r{d.revisions.length + 1}
              </Button>
            )}
            {r && (
              <Button variant="outlined" onClick={() => go(`/o/${outing.outing.id}/raise`)}>
                Something else changed
              </Button>
            )}
            {!settings && (
              <button type="button" className="linkbtn" onClick={() => setLook("marks")}>
                Dials and marks
              </button>
            )}
            <span role="status">{told}</span>
          </div>
          {!r && curve && foretold && (
            <div className="plot">
              <Suspense fallback={<p className="soft">Drawing…</p>}>
                <SwrPlot
                  frequencies={foretold.curve.map((p) => p.hz)}
                  strokes={[]}
                  own={foretold.own ?? []}
                  limit={me.data.good_swr}
                  computed={curve}
                  title={`Computed SWR of ${tag.name} on ${w.band}: lowest ${swr(foretold.best_swr)} at ${mhz(foretold.best_hz)} MHz`}
                />
              </Suspense>
            </div>
          )}
          <div className="row">
            {foretold && (
              <p className="tide">
                Computed: {swr(w.cable ? foretold.best_swr : foretold.feed_best_swr)} at{" "}
                <span className="mono">{mhz(w.cable ? foretold.best_hz : foretold.feed_best_hz)}</span> MHz,{" "}
                {(100 * foretold.sky).toFixed(0)} % to the sky. {computed.current && !cause && computed.result?.beside}
              </p>
            )}
            <Progress of={computed} what="computing its curve" />
          </div>
          <Progress of={advice} what="working out the advice" />
          {trim && trim.wires.length > 1 && (
            <ul className="assumed">
              {trim.wires.map((x) => (
                <li key={x.label}>{x.says}</li>
              ))}
            </ul>
          )}
          {trim && !trim.done && trim.foreseen.length > 0 && (
            <table className="dense">
              <thead>
                <tr>
                  <th>wanted, MHz</th>
                  <th>now</th>
                  <th>next sweep</th>
                  <th>too short</th>
                </tr>
              </thead>
              <tbody>
                {trim.foreseen.map((x) => (
                  <tr key={x.hz}>
                    <td className="mono">{mhz(x.hz)}</td>
                    <td className="mono copper">{mhz(x.now_hz)}</td>
                    <td className="mono tide">
                      {mhz(x.expect_hz)}
                      <span className="small" style={{ display: "block" }}>
                        {mhz(x.range_hz[0] ?? 0)} to {mhz(x.range_hz[1] ?? 0)}
                      </span>
                    </td>
                    <td className="mono tide">{x.short_percent < 0.1 ? "<0.1" : x.short_percent.toFixed(1)} %</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          <Numbers view={w} />
          {w.overview && (
            <details className="fold" open>
              <summary>All of it, {`${mhz(w.overview.frequencies[0] ?? 0)} to ${mhz(w.overview.frequencies.at(-1) ?? 0)} MHz`}</summary>
              <Suspense fallback={<p className="soft">Drawing…</p>}>
                <OverviewPlot of={w.overview} bands={reference.data?.bands ?? []} />
              </Suspense>
            </details>
          )}
          {r && w.revision_id && (
            <Why revision={w.revision_id} band={w.band} outing={outing.outing.id} picked={cause?.id} onPick={setCause} />
          )}
          {r?.quality?.map((q) => (
            <p key={q} className="note">
              {q}
            </p>
          ))}
          <Attach key={last.id} revision={last} band={w.band} onDone={() => setRevision("")} />
        </div>
        <aside className="stack">
          {row}
          <Thread
            revisions={d.revisions}
            now={current.id}
            onPick={setRevision}
            next={proposal && !unswept ? `${proposal.reason}?` : undefined}
          />
          {current.sweeps.map((s) => (
            <p key={s.id} className="small soft">
              <span className="mono">{s.name}</span>
              {s.simulated && " (simulated)"}, {s.points} points at the {s.where === "feed" ? "feed point" : "radio"}{" "}
              <button
                type="button"
                className="linkbtn small"
                style={{ padding: 0, minHeight: 24 }}
                onClick={async () => {
                  await remove("sweep", s.id, s.version, `${s.name} is taken off.`);
                }}
              >
                take it off
              </button>
            </p>
          ))}
        </aside>
      </div>
      <div className="ribbon" ref={ribbon} role="group" aria-label="Bands">
        {w.bands.map((b) => (
          <button key={b.band} type="button" aria-pressed={b.band === w.band} onClick={() => setBand(b.band)}>
            <span className="gauge">
              <i style={{ height: `${b.measured ? b.coverage : 0}%` }} />
            </span>
            <span>
              <b>{b.band.replace("m", " m")}</b>
              <br />
              {b.measured ? (
                <span>
                  <span className="mono">{b.min_swr > 20 ? "over 20" : b.min_swr.toFixed(1)}</span>{" "}
                  <span className="small">{b.coverage.toFixed(0)} %</span>
                </span>
              ) : (
                <span className="small soft">{b.wanted ? "wanted" : "not swept"}</span>
              )}
            </span>
          </button>
        ))}
      </div>
    </>
  );
}
