import { Link, NavLink, useLocation } from "react-router";
import type { Schemas } from "../api/client";
import { lightNames, nextLight, useLight } from "../theme/light";
import { apart, lastOuting } from "./place";
import "./Stalk.css";

export const stages = [
  ["scout", "Scout"],
  ["cut", "Cut"],
  ["raise", "Raise"],
  ["sweep", "Sweep"],
  ["work", "Work"],
  ["weigh", "Weigh"],
] as const;

function Knot({ state, current }: { state: string; current: boolean }) {
  return (
    <svg className="knot" viewBox="0 0 34 34" aria-hidden="true">
      {state === "done" && <path className="leaf" d="M14 14C2 12 -8 2 -12 -14C2 -10 12 0 14 14z" fill="var(--leaf)" />}
      {current ? (
        <g>
          <circle cx="17" cy="17" r="13" fill="var(--card)" stroke="var(--copper)" strokeWidth="4" />
          <circle cx="17" cy="17" r="4.5" fill="var(--copper)" />
        </g>
      ) : state === "done" ? (
        <circle cx="17" cy="17" r="6.5" fill="var(--reed)" />
      ) : state === "attend" ? (
        <g>
          <circle cx="17" cy="17" r="9" fill="var(--paper)" stroke="var(--clay)" strokeWidth="2.5" />
          <path d="M17 12v6M17 21.4v.4" stroke="var(--clay)" strokeWidth="2.8" strokeLinecap="round" />
        </g>
      ) : (
        <circle cx="17" cy="17" r="7" fill="var(--paper)" stroke="var(--reed)" strokeWidth="2.5" />
      )}
    </svg>
  );
}

export function Stalk({ outing, states }: { outing?: string; states: Schemas["Stage"][] }) {
  const { pathname } = useLocation();
  const light = useLight();
  const target = outing ?? lastOuting();
  return (
    <div className="leafside">
      <nav className="stalk" aria-label="Stages of the outing">
        <svg viewBox="0 0 30 520" aria-hidden="true">
          <path d="M15 0C18 90 11 150 14 230S19 420 15 520" fill="none" stroke="var(--reed)" strokeWidth="5" strokeLinecap="round" />
        </svg>
        <ol>
          {stages.map(([id, word], i) => {
            const s = states.find((x) => x.id === id);
            const current = outing !== undefined && pathname.endsWith(`/${id}`);
            const step = (
              <>
                <Knot state={s?.state ?? "open"} current={current} />
                <span className="word">
                  {word}
                  {s?.note && <span className={s.state === "attend" ? "why clay" : "why"}>{s.note}</span>}
                </span>
              </>
            );
            return (
              <li key={id}>
                {target ? (
                  <Link
                    className="step"
                    to={`/o/${target}/${id}`}
                    aria-current={current ? "step" : undefined}
                    aria-keyshortcuts={String(i + 1)}
                  >
                    {step}
                  </Link>
                ) : (
                  <span className="step shut">{step}</span>
                )}
              </li>
            );
          })}
        </ol>
      </nav>
      <nav className="foot" aria-label="Other pages">
        {apart.map(([to, word]) => (
          <NavLink key={to} to={to} end>
            {word}
          </NavLink>
        ))}
        <button type="button" onClick={nextLight} aria-keyshortcuts="t">
          Theme: {lightNames[light]}
        </button>
      </nav>
    </div>
  );
}
