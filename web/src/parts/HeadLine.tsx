import { useEffect, useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { useOutbox } from "../api/outbox";

const clock = (d: Date, zone?: string) => d.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit", timeZone: zone });

/** The time left until an instant, or the instant itself when it is not today. */
function left(word: string, at: string | undefined, now: Date) {
  if (!at) return null;
  const t = new Date(at);
  const min = Math.round((t.getTime() - now.getTime()) / 60000);
  if (min < 0 || min > 24 * 60)
    return (
      <span>
        {word} <b className="mono">{clock(t, "UTC")}</b> UTC
      </span>
    );
  return (
    <span>
      {word} in{" "}
      <b className="mono">
        {Math.floor(min / 60)} h {String(min % 60).padStart(2, "0")}
      </b>
    </span>
  );
}

export function HeadLine({ outing, title }: { outing?: Schemas["OutingDetail"]; title?: string }) {
  const [now, setNow] = useState(() => new Date());
  useEffect(() => {
    const t = setInterval(() => setNow(new Date()), 5000);
    return () => clearInterval(t);
  }, []);
  const { link, waiting } = useOutbox();
  const kept = waiting.filter((w) => !w.refused).length;
  return (
    <header className="head">
      <span className="where">{outing?.outing.name ?? title}</span>
      {outing && (
        <span className="soft">
          {outing.outing.date}
          {outing.locator && <span className="mono"> {outing.locator}</span>}
        </span>
      )}
      <span className="phone">
        <Link to="/">Shelf</Link>
        <Link to="/bag">Bag</Link>
        <Link to="/bench">Bench</Link>
        <Link to="/practice">Practice</Link>
        <Link to="/settings">Settings</Link>
      </span>
      <span className="push clock">
        {clock(now, "UTC")} UTC <span className="soft small">{clock(now)} here</span>
      </span>
      {outing && left("sunset", outing.sun?.set, now)}
      {outing && left("gate", outing.until, now)}
      <span role="status" className={link === "kept here" ? "clay" : "soft"}>
        {link === "kept here" ? `${kept} kept here until the link is back` : link}
      </span>
    </header>
  );
}
