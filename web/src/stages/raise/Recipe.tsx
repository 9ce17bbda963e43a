import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import { v7 as uuid } from "uuid";
import { type Schemas, Trouble, useGet } from "../../api/client";
import { send } from "../../api/outbox";
import { keepDeployment } from "../../parts/place";
import { say, setVersion } from "../../parts/Undo";

/** Keep a revision that worked, to be laid out again. */
export function KeepRecipe({ revisions, name }: { revisions: Schemas["Revision"][]; name: string }) {
  const [open, setOpen] = useState(false);
  const [at, setAt] = useState("");
  const [called, setCalled] = useState(name);
  const [told, setTold] = useState("");
  const fresh = useRef(uuid());
  const rev = revisions.find((r) => r.id === at) ?? revisions.at(-1);
  if (!rev) return null;
  const keep = async () => {
    try {
      const id = fresh.current;
      const done = await send("PUT", `/api/recipes/${id}`, { revision_id: rev.id, name: called }, `Recipe ${called}`, 0);
      fresh.current = uuid();
      setOpen(false);
      say(done ? `${called} is a recipe now.` : "The link is down: the recipe is kept here.", () => setVersion("recipe", id, 0, 1));
    } catch (e) {
      setTold(e instanceof Trouble ? e.whole : String(e));
    }
  };
  if (!open)
    return (
      <div>
        <button type="button" className="linkbtn" onClick={() => setOpen(true)}>
          Keep it as a recipe
        </button>
      </div>
    );
  return (
    <form
      className="stack tight"
      onSubmit={(e) => {
        e.preventDefault();
        void keep();
      }}
    >
      <TextField label="Name of the recipe" name="recipe" value={called} onChange={(e) => setCalled(e.target.value)} autoComplete="off" />
      <label className="stack tight small">
        As it was in
        <select className="pick" value={rev.id} onChange={(e) => setAt(e.target.value)}>
          {revisions.map((r) => (
            <option key={r.id} value={r.id}>
              r{r.seq}, {r.reason}
            </option>
          ))}
        </select>
      </label>
      <div className="row">
        <Button type="submit" variant="outlined">
          Keep the recipe
        </Button>
        <span role="alert">{told}</span>
      </div>
    </form>
  );
}

/** Lay a recipe out at this outing: every length as it was, nothing is cut. */
export function LayOut({ outing }: { outing: string }) {
  const go = useNavigate();
  const list = useGet<Schemas["RecipeInfo"][]>("/api/recipes");
  const [told, setTold] = useState("");
  const fresh = useRef(uuid());
  const all = list.data ?? [];
  if (all.length === 0) return null;
  const lay = async (recipe: string) => {
    const id = fresh.current;
    fresh.current = uuid();
    try {
      const done = await send("PUT", `/api/deployments/${id}/layout`, { outing_id: outing, recipe_id: recipe }, "A recipe laid out");
      keepDeployment(outing, id);
      if (done) void go(`/o/${outing}/raise`);
      else setTold("The link is down: kept here, and sent when it is back.");
    } catch (e) {
      setTold(e instanceof Trouble ? e.whole : String(e));
    }
  };
  return (
    <label className="layout-recipe">
      <span className="small">Lay out a recipe</span>
      <select className="pick" aria-label="Lay out a recipe" value="" onChange={(e) => void lay(e.target.value)}>
        <option value="">choose</option>
        {all.map((r) => (
          <option key={r.id} value={r.id}>
            {r.name}: {r.says} ({r.place})
          </option>
        ))}
      </select>
      <span role="status">{told}</span>
    </label>
  );
}

/** The recipes on the shelf. */
export function Recipes() {
  const list = useGet<Schemas["RecipeInfo"][]>("/api/recipes");
  const all = list.data ?? [];
  if (all.length === 0) return null;
  return (
    <section className="stack tight ruled">
      <h2>Recipes</h2>
      <ul className="stack tight" style={{ listStyle: "none" }}>
        {all.map((r) => (
          <li key={r.id} className="row" style={{ alignItems: "baseline" }}>
            <b>{r.name}</b> <span className="mono">{r.says}</span>
            <span className="small soft">
              {r.revision}, {r.place}, {r.date}. Lay it out in Cut of any outing.
            </span>
            <button
              type="button"
              className="linkbtn small"
              style={{ marginLeft: "auto" }}
              onClick={async () => {
                await setVersion("recipe", r.id, 0, r.version);
                say(`${r.name} is off the shelf.`, () => setVersion("recipe", r.id, r.version, r.version + 1));
              }}
            >
              Take off the shelf
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
