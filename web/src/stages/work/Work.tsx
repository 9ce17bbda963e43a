import { Link } from "react-router";
import { type Schemas, useGet, useReference } from "../../api/client";
import { metres } from "../../draw/numbers";
import { Sketch } from "../../draw/Sketch";
import { Below } from "../../parts/Below";
import { Facts } from "../../parts/Facts";
import { Fold, useWide } from "../../parts/Fold";
import { Opening } from "../../parts/Opening";
import { useAntennaInUse } from "../../parts/useAntenna";
import { BeaconRun } from "./BeaconRun";
import { Beside } from "./Beside";
import { Heard } from "./Heard";
import { ImportLog } from "./ImportLog";
import { LogLine, useLog } from "./Line";
import { LogTable } from "./LogTable";
import "./work.css";

/** Work: contacts from one typed line, the antenna in use beside it, and the log below. */
export default function Work({ outing }: { outing: Schemas["OutingDetail"] }) {
  const id = outing.outing.id;
  const log = useGet("/api/outings/{id}/log", { path: { id } });
  const { tag, pick } = useAntennaInUse(outing);
  const nextAntenna = () => {
    const i = outing.tags.findIndex((t) => t.id === tag?.id);
    const next = outing.tags[(i + 1) % outing.tags.length];
    if (next) pick(next.id);
  };
  const wide = useWide();
  const entry = useLog(id, tag?.id);
  if (!log.data) return <Opening of={[log]} />;
  const l = log.data;
  const between = <Beside outing={outing} log={l} tag={tag} entry={entry} />;
  const beside = (
    <div className="stack">
      <InUse outing={id} tag={tag} onNext={nextAntenna} />
      <Facts of={counts(l)} />
      {wide && between}
      <Grammar />
    </div>
  );
  return (
    <>
      <div className="wide">
        <div className="stack">
          <h1 className="steady">{l.progress.sentence}</h1>
          <Progress of={l.progress} />
          {l.ahead.map((s) => (
            <p key={s} className="note small">
              {s}.
            </p>
          ))}
          <Below>
            <LogLine outing={outing} log={l} tag={tag} nextAntenna={nextAntenna} entry={entry} />
            {!wide && between}
          </Below>
        </div>
        {wide && beside}
      </div>
      <Below>
        <LogTable outing={outing} log={l} />
        {!wide && beside}
        <ImportLog outing={outing} />
        <Fold name="Beacon run" says="antennas in turn, by the clock" head>
          <BeaconRun outing={outing} />
        </Fold>
        <Fold name="Who heard you" says="map, receivers, reports" head>
          <Heard outing={outing} />
        </Fold>
      </Below>
    </>
  );
}

/** How far it is to the minimum that counts. */
function Progress({ of: p }: { of: Schemas["Progress"] }) {
  if (p.scheme.minimum <= 0) return null;
  return (
    <div className="bar" role="img" aria-label={`${p.counted} of ${p.scheme.minimum}`}>
      <i style={{ width: `${Math.min(100, (100 * p.counted) / p.scheme.minimum)}%` }} />
    </div>
  );
}

/** The antenna that contacts are logged with; one press takes the next. */
function InUse({ outing, tag, onNext }: { outing: string; tag?: Schemas["Tag"]; onNext: () => void }) {
  if (!tag)
    return (
      <p className="note">
        No antenna recorded: contacts cannot be compared later. <Link to={`/o/${outing}/cut`}>Plan one</Link>
      </p>
    );
  return (
    <button type="button" className="using" onClick={onNext} aria-label={`Antenna in use: ${tag.letter}, ${tag.name}. Next antenna`}>
      <span className="letter">{tag.letter}</span>
      <Sketch family={tag.family} variant={tag.variant} />
      <span>
        <b className="name">{tag.name}</b>
        <br />
        <span className="small soft">in use. Tap for the next, or space on an empty line</span>
      </span>
    </button>
  );
}

/** How many on each band, how fast, and how many that count nothing new. */
function counts({ bands, progress: p, paces }: Schemas["Log"]): Schemas["Figure"][] {
  const out = bands.map((b) => ({ label: metres(b.band), value: String(b.contacts), why: "" }));
  for (const r of paces) if (r.count > 0) out.push({ label: `last ${r.minutes} minutes`, value: String(r.count), why: r.says });
  if (p.duplicates > 0) out.push({ label: "duplicates", value: String(p.duplicates), why: "" });
  return out;
}

function Grammar() {
  const reference = useReference();
  return (
    <details className="fold">
      <summary>How to type a line</summary>
      <table>
        <tbody>
          {reference.data?.grammar.map(([form = "", what]) => (
            <tr key={form}>
              <td className="mono">{form}</td>
              <td>{what}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}
