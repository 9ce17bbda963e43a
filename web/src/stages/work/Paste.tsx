import Button from "@mui/material/Button";
import { useState } from "react";
import { v7 as uuid } from "uuid";
import { answered, NoLink, type Schemas, Trouble, wire } from "../../api/client";
import { send } from "../../api/outbox";
import { many } from "../../draw/numbers";
import { clock } from "./clock";

/** Several lines at once, as from a paper log: looked at first, each as it would be logged. */
export function usePaste(outing: string, antenna: string | undefined) {
  const [lines, setLines] = useState<string[]>([]);
  const [read, setRead] = useState<Schemas["LineRead"][]>([]);
  const [told, setTold] = useState("");
  const close = () => {
    setLines([]);
    setRead([]);
    setTold("");
  };
  const look = async (text: string) => {
    const list = text.split(/\r?\n/).filter((l) => l.trim() !== "");
    setTold("");
    try {
      setRead(await answered(wire.POST("/api/lines", { body: { outing_id: outing, lines: list, deployment_id: antenna } })));
      setLines(list);
    } catch (e) {
      setTold(e instanceof NoLink ? "No connection: paste them when it is back." : e instanceof Trouble ? e.whole : String(e));
    }
  };
  /** Logs those that are understood, one after the other; what is not stays here to be looked at. */
  const keep = async () => {
    const left: number[] = [];
    for (const [i, r] of read.entries()) {
      if (r.problems.length > 0) {
        left.push(i);
        continue;
      }
      const c = r.contact;
      try {
        const body = { outing_id: outing, line: r.whole ?? "", at: c.at, deployment_id: c.deployment_id };
        await send("put", "/api/contacts/{id}/line", { id: uuid() }, body, lines[i] ?? "");
      } catch {
        left.push(i);
      }
    }
    setLines(left.map((i) => lines[i] ?? ""));
    setRead(left.flatMap((i) => read[i] ?? []));
    setTold(left.length > 0 ? `${many(left.length, "line")} not logged; correct and paste them again.` : "");
  };
  return { lines, read, told, look, keep, close };
}

export function Pasted({ of: p }: { of: ReturnType<typeof usePaste> }) {
  const good = p.read.filter((r) => r.problems.length === 0).length;
  if (p.lines.length === 0) return p.told ? <p className="note error small">{p.told}</p> : null;
  return (
    <section className="stack tight ruled" aria-label="Pasted lines">
      <h2>
        {good} of {many(p.lines.length, "line")} would be logged
      </h2>
      <div className="scroll low" tabIndex={0} role="region" aria-label="Lines as understood">
        <table className="small">
          <tbody>
            {p.read.map((r, i) => (
              <tr key={`${i + 1}`}>
                <td className="mono">{p.lines[i]}</td>
                <td className="mono">
                  {r.problems.length > 0
                    ? ""
                    : [clock(r.contact.at, false), r.contact.call, r.contact.band, r.contact.submode || r.contact.mode].join(" ")}
                </td>
                <td className={r.problems.length > 0 ? "clay" : ""}>{r.problems[0]?.text || r.worked}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {p.told && <p className="note error small">{p.told}</p>}
      <div className="row">
        <Button variant="contained" disabled={good === 0} onClick={() => void p.keep()}>
          Log {many(good, "line")}
        </Button>
        <Button variant="outlined" onClick={p.close}>
          Cancel
        </Button>
      </div>
    </section>
  );
}
