import Button from "@mui/material/Button";
import { useState } from "react";
import { answered, refresh, type Schemas, Trouble, useGet, wire } from "../../api/client";
import { say } from "../../parts/Undo";
import "./settings.css";

const day = (at: string) => new Date(at).toISOString().slice(0, 16).replace("T", " ");

/** The devices that were let in, by name and last visit, and a word for another. */
export function Devices() {
  const access = useGet("/api/access");
  const list = useGet("/api/devices");
  const [word, setWord] = useState<Schemas["PairingWord"]>();
  const [told, setTold] = useState("");
  const attempt = async (what: () => Promise<unknown>) => {
    setTold("");
    try {
      await what();
    } catch (e) {
      setTold(e instanceof Trouble ? e.whole : (e as Error).message);
    }
  };
  return (
    <section className="stack tight" aria-label="Devices">
      <p className="soft">
        {access.data?.lan
          ? "Other devices on the network can open this notebook once they are paired. Paired devices:"
          : "Only this computer can open the notebook. For phones and tablets see “The phone beside the laptop” in the handbook."}
      </p>
      {(list.data?.length ?? 0) > 0 && (
        <div className="scroll">
          <table>
            <thead>
              <tr>
                <th>Device</th>
                <th>Last seen, UTC</th>
                <th>Since</th>
                <th>
                  <span className="skip">Delete</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {list.data?.map((d) => (
                <tr key={d.id}>
                  <td>
                    {d.name} {d.here && <span className="soft">(this one)</span>}
                  </td>
                  <td className="mono">{day(d.seen)}</td>
                  <td className="mono">{day(d.since).slice(0, 10)}</td>
                  <td>
                    <button
                      type="button"
                      className="linkbtn"
                      onClick={() =>
                        void attempt(async () => {
                          await answered(wire.DELETE("/api/devices/{id}", { params: { path: { id: d.id } } }));
                          say(`${d.name} must pair again.`);
                          await refresh();
                        })
                      }
                    >
                      Delete
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {access.data?.lan && (
        <div className="row">
          <Button variant="outlined" onClick={() => void attempt(async () => setWord(await answered(wire.POST("/api/access/word"))))}>
            Add a device
          </Button>
          {word && (
            <p>
              Open <span className="mono">{word.addresses[0]}</span> there and type <b className="mono arm">{word.word}</b>. It opens once,
              until {day(word.until).slice(11)} UTC.
            </p>
          )}
        </div>
      )}
      {told && (
        <div className="note error" role="alert">
          {told}
        </div>
      )}
    </section>
  );
}
