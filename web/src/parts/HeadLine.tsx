import { useEffect, useState } from "react";
import { NavLink, useLocation } from "react-router";
import { type Schemas, useGet } from "../api/client";
import { useAway } from "../api/live";
import { useOutbox } from "../api/outbox";
import { lightNames, nextLight, useLight } from "../theme/light";
import { apart } from "./place";
import "./HeadLine.css";

const two = (n: number) => String(n).padStart(2, "0");
const utc = (d: Date) => d.toISOString().slice(11, 16);
const local = (d: Date) => `${two(d.getHours())}:${two(d.getMinutes())}`;

/** The time left until an instant, or the instant itself when it is not today. */
function Left({ word, at, now }: { word: string; at?: string; now: Date }) {
  if (!at) return null;
  const t = new Date(at);
  const min = Math.round((t.getTime() - now.getTime()) / 60000);
  if (min < 0 || min > 24 * 60)
    return (
      <span className="wide-only">
        {word} <b className="mono">{utc(t)}</b> UTC
      </span>
    );
  return (
    <span className="wide-only">
      {word} in{" "}
      <b className="mono">
        {Math.floor(min / 60)} h {two(min % 60)}
      </b>
    </span>
  );
}

/** On a phone: what the head has no room for, and the ways to what stands apart from the outing. */
function Rest({ outing, now, onDone }: { outing?: Schemas["OutingDetail"]; now: Date; onDone: () => void }) {
  const until = [
    ["sunset", outing?.sun?.set],
    ["gate", outing?.until],
  ].flatMap(([word, at]) => (at ? [`${word} ${utc(new Date(at))} UTC`] : []));
  return (
    <nav className="rest" id="rest" aria-label="Other pages">
      <p className="small">{[outing?.outing.date, outing?.locator, `${local(now)} here`, ...until].filter(Boolean).join(", ")}</p>
      <ul>
        {apart.map(([to, word]) => (
          <li key={to}>
            <NavLink to={to} end onClick={onDone}>
              {word}
            </NavLink>
          </li>
        ))}
      </ul>
    </nav>
  );
}

/** In the notebook of made-up data: what it is, and the way back to one's own. */
function MadeUp() {
  const own = useGet("/api/access").data?.own;
  if (!own) return null;
  return (
    <p className="madeup">
      <span>Demo notebook: all data is made up.</span> <a href={own}>Back to my own notebook</a>
    </p>
  );
}

export function HeadLine({ outing, title }: { outing?: Schemas["OutingDetail"]; title?: string }) {
  const [now, setNow] = useState(() => new Date());
  useEffect(() => {
    const t = setInterval(() => setNow(new Date()), 5000);
    return () => clearInterval(t);
  }, []);
  const light = useLight();
  const { link, waiting, keeps } = useOutbox();
  const away = useAway();
  const kept = waiting.filter((w) => !w.refused).length;
  const { pathname } = useLocation();
  const [opened, setOpened] = useState("");
  const open = opened === pathname;
  const close = () => setOpened("");
  useEffect(() => {
    if (!open) return;
    const on = (e: KeyboardEvent) => e.key === "Escape" && setOpened("");
    addEventListener("keydown", on);
    return () => removeEventListener("keydown", on);
  }, [open]);
  return (
    <>
      <MadeUp />
      <header className="head">
        <span className="where">{outing?.outing.name ?? title}</span>
        {outing && (
          <span className="soft wide-only">
            {outing.outing.date}
            {outing.locator && <span className="mono"> {outing.locator}</span>}
          </span>
        )}
        <span className="push clock">
          {utc(now)} UTC <span className="soft small wide-only">{local(now)} here</span>
        </span>
        <Left word="sunset" at={outing?.sun?.set} now={now} />
        <Left word="gate" at={outing?.until} now={now} />
        <span role="status" className={link === "kept here" || away || !keeps ? "link clay" : "link soft wide-only"}>
          {!keeps ? (
            "this device cannot save for later"
          ) : away && kept === 0 ? (
            <>
              no link<span className="wide-only">: what you write is saved on this device</span>
            </>
          ) : link === "kept here" ? (
            <>
              {kept} not synced<span className="wide-only"> yet</span>
            </>
          ) : (
            link
          )}
        </span>
        <button type="button" className="lamp" onClick={nextLight} aria-label={`Theme: ${lightNames[light]}`}>
          <svg viewBox="0 0 24 24" aria-hidden="true">
            <circle cx="12" cy="12" r="8.5" fill="none" stroke="currentColor" strokeWidth="2" />
            <path d="M12 3.5a8.5 8.5 0 0 1 0 17z" fill="currentColor" />
          </svg>
        </button>
        <button type="button" className="more" aria-expanded={open} aria-controls="rest" onClick={() => setOpened(open ? "" : pathname)}>
          More
        </button>
      </header>
      {open && <Rest outing={outing} now={now} onDone={close} />}
    </>
  );
}
