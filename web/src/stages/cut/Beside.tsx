import { type Schemas, useGet } from "../../api/client";
import { toCut, toHang } from "../../draw/numbers";
import { Opening } from "../../parts/Opening";

/** The cut lists of all planned antennas of an outing beside each other. */
export function Beside({ outing, imperial, onPick }: { outing: string; imperial: boolean; onPick: (id: string) => void }) {
  const lists = useGet("/api/outings/{id}/cutlists", { path: { id: outing } });
  if (!lists.data) return <Opening of={[lists]} />;
  const cut = (l: Schemas["Length"]) => toCut(l, imperial);
  const hung = (l: Schemas["Length"]) => toHang(l, imperial);
  const c = lists.data.columns;
  const row = (label: string, cell: (x: Schemas["CutColumn"]) => React.ReactNode) => (
    <tr>
      <th scope="row">{label}</th>
      {c.map((x) => (
        <td key={x.id}>{cell(x)}</td>
      ))}
    </tr>
  );
  return (
    <div className="stack">
      <div className="say">
        <h1>{lists.data.sentence}</h1>
      </div>
      <div className="scroll" tabIndex={0} role="region" aria-label="Cut lists side by side">
        <table className="beside">
          <thead>
            <tr>
              <th />
              {c.map((x) => (
                <th key={x.id}>
                  <button type="button" className="linkbtn" onClick={() => onPick(x.id)}>
                    {x.name} {x.letter}
                  </button>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {row("antenna", (x) => x.family)}
            {row("for", (x) => (
              <span className="mono">{x.bands}</span>
            ))}
            {row("cut", (x) =>
              x.pieces.map((p) => (
                <div key={p.name}>
                  {p.title} <b className="mono">{cut(p.cut)}</b>
                </div>
              )),
            )}
            {row("total wire", (x) => (
              <span className="mono">{hung(x.wire)}</span>
            ))}
            {row("reel", (x) => x.reel)}
            {row("from the bag", (x) => x.parts.join(", ") || "nothing chosen")}
            {row("weight", (x) => (
              <span className="mono">{Math.round(x.grams)} g</span>
            ))}
            {row("highest point", (x) => (
              <span className="mono">{hung(x.height)}</span>
            ))}
            {row("expect", (x) => x.expect)}
          </tbody>
        </table>
      </div>
      <p className="small soft">Wire weight is computed from copper and jacket; parts use the weight given in the bag.</p>
    </div>
  );
}
