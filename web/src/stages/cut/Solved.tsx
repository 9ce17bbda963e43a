import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { toCut } from "../../draw/numbers";
import { useSteady } from "../../parts/draft";
import { Figures, Tables } from "../../parts/Figures";
import { Asked } from "../../parts/Forecast";
import { type Computing, useComputed } from "../../parts/useComputed";

type Plan = Schemas["PlanRequest"];
type Used = Schemas["Solved"][];

/** The solver's word on the lengths: what the closed form says beside it, and the choice which of them is cut. */
export function SolvedLengths({
  of: c,
  imperial,
  used,
  onUse,
}: {
  of: Computing<Schemas["Refined"]>;
  imperial: boolean;
  used: boolean;
  onUse: (lengths: Used) => void;
}) {
  const r = c.result;
  const print = (l: Schemas["Length"]) => toCut(l, imperial);
  return (
    <section className="stack tight noprint" aria-label="Lengths by the solver">
      <h2>{r ? r.sentence : "Lengths by the solver"}</h2>
      {r && r.lengths.length > 0 && (
        <table className="dense">
          <thead>
            <tr>
              <th />
              <th>closed form</th>
              <th>solved</th>
              <th>difference</th>
            </tr>
          </thead>
          <tbody>
            {r.lengths.map((l) => (
              <tr key={l.field + l.label}>
                <td>{l.label}</td>
                <td className="mono">{l.field === "helix_turns" ? l.closed.m?.toFixed(0) : print(l.closed)}</td>
                <td className="mono tide">{l.field === "helix_turns" ? l.solved.m?.toFixed(0) : print(l.solved)}</td>
                <td className="mono tide">
                  {l.off < 0 ? "−" : "+"}
                  {Math.abs(l.off).toFixed(1)} %
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {r?.settings.map((s) => (
        <p key={s} className="mono tide">
          {s}
        </p>
      ))}
      {r && <Figures of={r.figures} />}
      {r && <p className="small soft">{r.why}</p>}
      {r && r.solved.length > 0 && (
        <div className="row">
          {used ? (
            <Button variant="outlined" onClick={() => onUse([])}>
              Use the closed-form lengths
            </Button>
          ) : (
            <Button variant="outlined" disabled={!c.current} onClick={() => onUse(r.solved)}>
              Use the solved lengths
            </Button>
          )}
          <span role="status" className="small soft">
            {used ? "The cut list uses the solved lengths." : "The cut list uses the closed-form lengths."}
          </span>
        </div>
      )}
    </section>
  );
}

/** For typed lengths that stay as they are: what would match better, and a press that takes it. */
export function BetterLengths({ of: c, onTake }: { of: Computing<Schemas["Refined"]>; onTake: (field: string, text: string) => void }) {
  const better = c.current ? (c.result?.better ?? []) : [];
  if (better.length === 0) return null;
  return (
    <section className="stack tight noprint" aria-label="Better lengths">
      {better.map((b) => (
        <div className="row" key={b.field}>
          <span>{b.says}</span>
          <Button variant="outlined" onClick={() => onTake(b.field, b.text)}>
            Use {b.text}
          </Button>
        </div>
      ))}
    </section>
  );
}

/** Questions on which people differ, put to the model of this very antenna. */
export function Questions({ plan, outing, family, unit }: { plan: Plan; outing: string; family: Schemas["Family"]; unit: string }) {
  const feeding = family.variants.find((v) => v.id === plan.variant)?.feeding ?? family.feeding;
  const upright = feeding === "radials";
  const ended = feeding === "counterpoise";
  const [metres, setMetres] = useState(unit === "ft" ? "130 ft" : "40 m");
  const steady = useSteady(plan);
  const [asked, setAsked] = useState<{ of: Plan; metres: string }>();
  const question = asked?.of === steady ? asked : undefined;
  const c = useComputed(
    "question",
    upright ? "radials" : "counterpoise",
    question ? { plan, outing_id: outing, ...(upright && { metres: question.metres }) } : undefined,
  );
  if (!upright && !ended) return null;
  return (
    <details className="fold noprint">
      <summary>{upright ? "How do I cut my radial wire?" : "Counterpoise, coax, choke: how?"}</summary>
      <div className="stack">
        <div className="row">
          {upright && (
            <TextField
              label="Radial wire available"
              name="metres"
              value={metres}
              onChange={(e) => setMetres(e.target.value)}
              sx={{ maxWidth: 190 }}
              slotProps={{ htmlInput: { className: "mono" } }}
            />
          )}
          <Button variant="outlined" onClick={() => setAsked({ of: steady, metres })}>
            Compare by the model
          </Button>
        </div>
        <Asked of={c} what="solving each way" />
        <Tables of={c.result?.tables ?? []} />
      </div>
    </details>
  );
}
