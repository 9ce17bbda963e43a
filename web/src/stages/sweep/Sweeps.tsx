import type { Schemas } from "../../api/client";
import { remove } from "../../parts/Undo";

/** The sweeps of a revision, each of which can be taken off. */
export function Sweeps({ of }: { of: Schemas["Revision"] }) {
  return of.sweeps.map((s) => (
    <p key={s.id} className="small soft">
      <span className="mono">{s.name}</span>
      {s.simulated && " (simulated)"}, {s.points} points at the {s.where === "feed" ? "feed point" : "radio"}{" "}
      <button type="button" className="linkbtn slim small" onClick={() => void remove("sweep", s.id, s.version, `${s.name} is deleted.`)}>
        delete
      </button>
    </p>
  ));
}
