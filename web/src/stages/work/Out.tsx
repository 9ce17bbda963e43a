import Button from "@mui/material/Button";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answered, NoLink, type Schemas, Trouble, useGet, wire } from "../../api/client";
import { clock } from "./clock";

const said = (e: unknown) => (e instanceof NoLink ? "No connection." : e instanceof Trouble ? e.whole : String(e));

type Said = { mhz: string; mode: string };

/** What the radio says and who is out: pressed into the line, and oneself announced. */
export function Out({
  outing,
  tag,
  stays,
  onWords,
}: {
  outing: Schemas["OutingDetail"];
  tag?: Schemas["Tag"];
  stays: { band?: string; mode?: string };
  onWords: (words: string) => void;
}) {
  const path = { id: outing.outing.id };
  const [radio, setRadio] = useState<Schemas["RadioState"]>();
  const [open, setOpen] = useState(false);
  const [told, setTold] = useState("");
  const queries = useQueryClient();
  const board = useGet("/api/outings/{id}/board", open ? { path } : null);
  const ask = async (): Promise<Said | undefined> => {
    setTold("");
    try {
      const query = { deployment: tag?.id, band: stays.band || undefined, mode: stays.mode || undefined };
      const got = await answered(wire.GET("/api/outings/{id}/radio", { params: { path, query } }));
      setRadio(got);
      return got;
    } catch (e) {
      setTold(said(e));
    }
  };
  const announce = async () => {
    const now = await ask(); // it may be elsewhere by now
    if (!now) return;
    try {
      await answered(wire.PUT("/api/outings/{id}/board", { params: { path }, body: { mhz: now.mhz, mode: now.mode } }));
      await queries.invalidateQueries();
      setTold(`Announced on ${now.mhz} MHz, ${now.mode}, on the simulated board.`);
    } catch (e) {
      setTold(said(e));
    }
  };
  return (
    <section className="stack tight" aria-label="Radio and board">
      <div className="row">
        <Button variant="outlined" onClick={() => void ask()}>
          Read the radio
        </Button>
        <Button variant="outlined" aria-expanded={open} onClick={() => setOpen(!open)}>
          Spots
        </Button>
      </div>
      {radio && (
        <p className="small">
          <button type="button" className="linkbtn mono" onClick={() => onWords(`${radio.mhz} ${radio.mode} ${radio.watts}W`)}>
            {radio.mhz} MHz {radio.mode} {radio.watts} W
          </button>{" "}
          {radio.says}
        </p>
      )}
      {told && (
        <p className="small" role="status">
          {told}
        </p>
      )}
      {open && (
        <div className="stack tight">
          <div className="scroll low" tabIndex={0} role="region" aria-label="Spots, simulated">
            <table className="small">
              <tbody>
                {board.data?.map((s) => (
                  <tr key={s.call + s.at}>
                    <td className="mono">{clock(s.at, false)}</td>
                    <td>
                      <button
                        type="button"
                        className="linkbtn mono slim"
                        onClick={() => onWords(`${s.call} ${s.mhz} ${s.mode}${s.ref ? ` =${s.ref}` : ""}`)}
                      >
                        {s.call}
                      </button>
                    </td>
                    <td className="mono">{s.mhz}</td>
                    <td>{s.mode}</td>
                    <td>{s.own ? "yourself" : s.where}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <div className="row">
            <Button variant="outlined" onClick={() => void announce()}>
              Spot yourself
            </Button>
            <span className="small soft">The spots are simulated; nothing is sent.</span>
          </div>
        </div>
      )}
    </section>
  );
}
