import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { send } from "../../api/outbox";
import { useDraft } from "../../parts/draft";

/** The one question at the end of an outing: what it answers stands on top of the next list. */
function Afterwards({ outing }: { outing: Schemas["Outing"] }) {
  const [missing, setMissing, forget] = useDraft(`missing:${outing.id}`, outing.missing ?? "");
  const [unused, setUnused, forgetUnused] = useDraft(`unused:${outing.id}`, outing.unused ?? "");
  const [told, setTold] = useState("");
  const keep = async () => {
    try {
      const done = await send("put", "/api/outings/{id}", { id: outing.id }, { ...outing, missing, unused }, "Packing", outing.version);
      if (done) {
        forget();
        forgetUnused();
      }
      setTold(done ? "Saved for next time." : "No connection: saved on this device, synced later.");
    } catch (e) {
      setTold(e instanceof Error ? e.message : String(e));
    }
  };
  return (
    <details className="fold">
      <summary>Afterwards: what was missing, what was not used?</summary>
      <div className="stack">
        <TextField label="Missing, one per line" multiline minRows={2} value={missing} onChange={(e) => setMissing(e.target.value)} />
        <TextField label="Not used, one per line" multiline minRows={2} value={unused} onChange={(e) => setUnused(e.target.value)} />
        <div>
          <Button variant="outlined" onClick={() => void keep()}>
            Save for next time
          </Button>{" "}
          <span role="status">{told}</span>
        </div>
      </div>
    </details>
  );
}

/** What to pack for the first choice, by when it is needed; ticked here, also with the link down. */
export function Packing({ outing, groups, kg }: { outing: Schemas["Outing"]; groups: Schemas["PackedGroup"][]; kg: number }) {
  const [ticked, setTicked] = useDraft<string[]>(`packed:${outing.id}`, outing.packed ?? []);
  const all = groups.flatMap((g) => g.items);
  const tick = (id: string, on: boolean) => {
    const packed = on ? [...ticked, id] : ticked.filter((x) => x !== id);
    setTicked(packed);
    // What is refused or waits stands in the outbox; the tick stays here.
    void send("put", "/api/outings/{id}", { id: outing.id }, { ...outing, packed }, "Packing list", outing.version).catch(() => undefined);
  };
  const left = all.filter((p) => !ticked.includes(p.id)).length;
  return (
    <section className="stack" aria-label="Packing list">
      <p className="soft">{left === 0 ? "All packed." : `${left} left.`}</p>
      {groups.map((g) => (
        <div key={g.when}>
          <h3 className="small soft">{g.when}</h3>
          <ul className="plain packing">
            {g.items.map((p, i) => (
              <li key={`${p.id}${i + 1}`}>
                <label className="tall">
                  <input type="checkbox" checked={ticked.includes(p.id)} onChange={(e) => tick(p.id, e.target.checked)} />
                  <span>
                    {p.count > 1 ? `${p.count} × ` : ""}
                    {p.name}
                    {p.missing && <b className="clay"> not in the bag</b>}
                    {p.why && <span className="small soft"> {p.why}</span>}
                  </span>
                </label>
              </li>
            ))}
          </ul>
        </div>
      ))}
      <Afterwards outing={outing} />
      {kg > 0 && <p className="small soft">What is weighed comes to {kg.toFixed(1)} kg.</p>}
    </section>
  );
}
