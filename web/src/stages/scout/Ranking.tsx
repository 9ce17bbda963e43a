import Button from "@mui/material/Button";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useWide } from "../../parts/Fold";
import { type Scouting, useCarry } from "./useScout";

/** A number of decibels with its sign. */
const signed = (db: number) => `${db < 0 ? "−" : "+"}${Math.abs(db).toFixed(1)}`;

const counts = [
  ["signal", "Signal"],
  ["minutes", "Minutes"],
  ["weight", "Weight"],
  ["wire", "Wire"],
  ["space", "Space"],
  ["trust", "Trust"],
] as const;

/** What counts how much, as one drags it. */
export function Weights({ weights, set }: { weights: Schemas["ScoutWeights"]; set: (w: Schemas["ScoutWeights"]) => void }) {
  return (
    <fieldset className="weights">
      <legend>Priorities</legend>
      {counts.map(([id, name]) => (
        <label key={id}>
          <span>{name}</span>
          <input
            type="range"
            min="0"
            max="3"
            step="0.25"
            value={weights[id]}
            onChange={(e) => set({ ...weights, [id]: Number(e.target.value) })}
          />
          <span className="mono">{weights[id]}×</span>
        </label>
      ))}
    </fieldset>
  );
}

/** What a score is made of, where it counts for or against it. */
function Parts({ of: p }: { of: Schemas["ScoutPoints"] }) {
  const said = counts.filter(([id]) => Math.abs(p[id]) >= 0.05).map(([id, name]) => `${name.toLowerCase()} ${signed(p[id])}`);
  return <p className="small soft">Score, dB: {said.join(", ")}</p>;
}

type OneProps = { c: Schemas["ScoutCandidate"]; best: number; n: number; on: boolean; pick: () => void; carry: () => void };

/** A candidate with its distance to the best; the chosen one with its reasons. */
function One({ c, best, n, on, pick, carry }: OneProps) {
  return (
    <li className={on ? "candidate on" : "candidate"}>
      <button type="button" className="candidatehead" aria-pressed={on} onClick={pick}>
        <span className="mono">{n}</span>
        <span className="candidatename">{c.name}</span>
        <span className="mono tide">{best - c.score < 0.05 ? "best" : `${signed(c.score - best)} dB`}</span>
      </button>
      {on && (
        <div className="stack tight">
          <ul className="plain small">
            {c.reasons.map((r) => (
              <li key={r}>{r}</li>
            ))}
          </ul>
          <Parts of={c.points} />
          <div>
            <Button variant="contained" onClick={carry}>
              {c.recipe ? "Use this recipe" : "Plan this antenna"}
            </Button>
          </div>
        </div>
      )}
    </li>
  );
}

/** How many stand on a phone before one asks for the others. */
const onPhone = 4;

/** Candidates by rank, with what speaks for them, and what does not fit with what stands in the way. */
export function Ranking({ scout: s }: { scout: Scouting }) {
  const carry = useCarry(s.outing);
  const wide = useWide();
  const [all, setAll] = useState(false);
  const [told, setTold] = useState("");
  const a = s.answer.result;
  const list = a?.candidates ?? [];
  return (
    <div className="stack">
      <h2>What fits</h2>
      {a?.candidates.length === 0 && <p className="note error">{a.sentence}</p>}
      {(a?.notes ?? [])
        .filter((n) => !n.path.startsWith("lines.") && n.path !== "bulletin")
        .map((n) => (
          <p key={n.text} className="note small">
            {n.text}
          </p>
        ))}
      <ol className="plain candidates">
        {(wide || all ? list : list.slice(0, onPhone)).map((c, i) => (
          <One
            key={`${c.name}${c.recipe ?? ""}`}
            c={c}
            best={list[0]?.score ?? 0}
            n={i + 1}
            on={i === s.at}
            pick={() => s.setAt(i)}
            carry={() => {
              setTold("");
              carry(c).catch((e: Error) => setTold(e.message));
            }}
          />
        ))}
      </ol>
      {told && (
        <p className="note error small" role="status">
          {told}
        </p>
      )}
      {!wide && !all && list.length > onPhone && (
        <button type="button" className="linkbtn" onClick={() => setAll(true)}>
          The other {list.length - onPhone}
        </button>
      )}
      {a && a.unfit.length > 0 && (
        <details className="fold">
          <summary>Does not fit: {a.unfit.length}</summary>
          <ul className="plain unfit small">
            {a.unfit.map((u) => (
              <li key={u.name}>
                <b>{u.name}</b>: {u.says}.{u.helps ? ` But ${u.helps}.` : ""}
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}
