import type { Schemas } from "../api/client";
import { many } from "../draw/numbers";
import "./Thread.css";

/** The revisions of a deployment, newest first, each with what it changed. */
export function Thread({ revisions, now, onPick }: { revisions: Schemas["Revision"][]; now?: string; onPick?: (id: string) => void }) {
  return (
    <ol className="thread" reversed>
      {[...revisions].reverse().map((r) => (
        <li key={r.id} className={r.id === now ? "now" : ""}>
          <span className="dot" />
          <button type="button" className="pick" onClick={() => onPick?.(r.id)} aria-pressed={r.id === now}>
            <b className="mono">r{r.seq}</b> <span className="mono soft">{new Date(r.at).toISOString().slice(11, 16)}</span>
            <div>{r.reason}</div>
            <div className="small soft">
              {r.changes.map((c) => (
                <div key={c.field}>
                  {c.label}: <span className="mono">{c.a}</span> to <span className="mono copper">{c.b}</span>
                </div>
              ))}
              {r.sweeps.length > 0 ? many(r.sweeps.length, "sweep") : "not swept"}
            </div>
          </button>
        </li>
      ))}
    </ol>
  );
}
