import { useGet } from "../../api/client";
import { say, setVersion } from "../../parts/Undo";

/** The recipes on the shelf. */
export function Recipes() {
  const list = useGet("/api/recipes");
  const all = list.data ?? [];
  if (all.length === 0) return null;
  return (
    <section className="stack tight ruled">
      <h2>Recipes</h2>
      <ul className="stack tight plain">
        {all.map((r) => (
          <li key={r.id} className="row baseline">
            <b>{r.name}</b> <span className="mono">{r.says}</span>
            <span className="small soft">
              {r.revision}, {r.place}, {r.date}. Lay it out in Cut of any outing.
            </span>
            <button
              type="button"
              className="linkbtn small end"
              onClick={async () => {
                await setVersion("recipe", r.id, 0, r.version);
                say(`${r.name} is deleted.`, () => setVersion("recipe", r.id, r.version, r.version + 1));
              }}
            >
              Delete
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
