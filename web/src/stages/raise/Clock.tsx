import Button from "@mui/material/Button";
import { useState } from "react";
import { type Schemas, Trouble } from "../../api/client";
import { send } from "../../api/outbox";
import "./raise.css";

const moments = [
  ["begun", "Start the clock", "begun"],
  ["up", "Antenna is up", "up"],
  ["tuned", "Antenna is tuned", "tuned"],
  ["on_air", "On the air", "on air"],
] as const;

/** Clock of setting up: one large button for the next moment, and what each part took. */
export function SetUpClock({ of }: { of: Schemas["DeploymentDetail"] }) {
  const clock = of.deployment.clock ?? {};
  const [told, setTold] = useState("");
  const at = moments.findIndex(([id]) => !clock[id]);
  const next = at < 0 ? undefined : moments[at];
  const last = moments.filter(([id]) => clock[id]).at(-1);
  const put = async (changed: Schemas["Clock"]) => {
    setTold("");
    try {
      const { id, name, version } = of.deployment;
      const done = await send("put", "/api/deployments/{id}/clock", { id: id }, changed, `Clock of ${name}`, version);
      if (!done) setTold("No connection: saved on this device.");
    } catch (e) {
      setTold(e instanceof Trouble ? e.whole : String(e));
    }
  };
  return (
    <section className="stack tight setclock" aria-label="Set-up clock">
      {of.clock_minutes > 0 && (
        <p>
          <b className="arm">{of.clock_minutes}</b> min in all
          <span className="small soft block">{of.clock_parts.map((p) => p.text).join(", ")}</span>
        </p>
      )}
      {clock.begun && of.clock_minutes === 0 && <p>Begun at {clock.begun.slice(11, 16)} UTC.</p>}
      <div className="row">
        {next && (
          <Button variant={at === 0 ? "outlined" : "contained"} onClick={() => void put({ ...clock, [next[0]]: new Date().toISOString() })}>
            {next[1]}
          </Button>
        )}
        {last && (
          <button type="button" className="linkbtn small" onClick={() => void put({ ...clock, [last[0]]: undefined })}>
            take “{last[2]}” back
          </button>
        )}
      </div>
      {told && (
        <p className="note" role="status">
          {told}
        </p>
      )}
    </section>
  );
}
