import Button from "@mui/material/Button";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Progress } from "../../parts/Progress";
import { useComputed } from "../../parts/useComputed";
import "./sweep.css";

export type Explanation = Schemas["Diagnosis"]["explanations"][number];

/** Why a sweep is not as computed: single explanations, ranked, each with the curve that it foretells. */
export function Why({
  revision,
  band,
  picked,
  onPick,
}: {
  revision: string;
  band: string;
  picked?: string;
  onPick: (e: Explanation | undefined) => void;
}) {
  const [asked, setAsked] = useState("");
  const here = `${revision} ${band}`;
  const c = useComputed("why", "causes", asked === here ? { revision_id: revision, band } : undefined);
  const d = asked === here && c.current ? c.result : undefined;
  return (
    <section className="stack tight" aria-label="Causes">
      <div className="row">
        {!d && !c.running && (
          <Button variant="outlined" onClick={() => setAsked(here)}>
            Why does it differ from the model?
          </Button>
        )}
        <Progress of={c} what="trying explanations" />
      </div>
      {d && (
        <>
          <h2>{d.sentence}</h2>
          {d.separate && !d.nothing && <p>{d.separate}</p>}
          <ul className="causes">
            {d.explanations.slice(0, 6).map((e) => (
              <li key={e.id}>
                <button
                  type="button"
                  aria-pressed={picked === e.id}
                  onClick={() => onPick(picked === e.id ? undefined : e)}
                  title="show its curve"
                >
                  <span className="gauge">
                    <i style={{ height: `${Math.max(e.share, 1)}%` }} />
                  </span>
                  <span>
                    <b>{e.title}</b> <span className="mono tide">{e.share < 1 ? "under 1 %" : `${e.share.toFixed(0)} %`}</span>
                    <span className="small soft block">{e.says}</span>
                  </span>
                </button>
              </li>
            ))}
          </ul>
          <p className="small soft">
            Single causes, each fitted alone; the share counts how free it is. Press one to see the curve it foretells. Two things at once
            are not on the list.
          </p>
        </>
      )}
    </section>
  );
}
