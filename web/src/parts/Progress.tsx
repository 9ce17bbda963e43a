import type { Computing } from "./useComputed";
import "./Progress.css";

/** How far a computation is, with the way to stop it. */
export function Progress({ of: c, what }: { of: Computing; what: string }) {
  if (c.trouble)
    return (
      <div className="row" role="status">
        <span className="note error small">{c.trouble}</span>
        {(c.trouble === "Stopped." || c.trouble.startsWith("No connection")) && (
          <button type="button" className="linkbtn" onClick={c.again}>
            Compute now
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
