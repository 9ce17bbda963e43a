import type { Schemas } from "../../api/client";
import { send } from "../../api/outbox";
import { useDraft } from "../../parts/draft";

/** What to pack for the first choice, by when it is needed; ticked here, also with the link down. */
export function Packing({ outing, groups }: { outing: Schemas["Outing"]; groups: Schemas["PackedGroup"][] }) {
  const [ticked, setTicked] = useDraft<string[]>(`packed:${outing.id}`, outing.packed ?? []);
  const all = groups.flatMap((g) => g.items);
  const grams = all.reduce((sum, p) => sum + (p.grams ?? 0) * p.count, 0);
  const tick = (id: string, on: boolean) => {
    const packed = on ? [...ticked, id] : ticked.filter((x) => x !== id);
    setTicked(packed);
    // What is refused or waits stands in the outbox; the tick stays here.
    void send("put", "/api/outings/{id}", { id: outing.id }, { ...outing, packed }, "Packing list", outing.version).catch(() => undefined);
  };
  const left = all.filter((p) => !ticked.includes(p.id)).length;
  return (
    <section className="stack" aria-label="To pack">
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
      {grams > 0 && <p className="small soft">What is weighed comes to {(grams / 1000).toFixed(1)} kg.</p>}
    </section>
  );
}
