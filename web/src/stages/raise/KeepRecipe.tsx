import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useRef, useState } from "react";
import { v7 as uuid } from "uuid";
import { type Schemas, Trouble } from "../../api/client";
import { send } from "../../api/outbox";
import { say, setVersion } from "../../parts/Undo";
import "./raise.css";

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
      const done = await send("put", "/api/recipes/{id}", { id: id }, { revision_id: rev.id, name: called }, `Recipe ${called}`, 0);
      fresh.current = uuid();
      setOpen(false);
      say(done ? `${called} is a recipe now.` : "No connection: the recipe is saved on this device.", () => setVersion("recipe", id, 0, 1));
    } catch (e) {
      setTold(e instanceof Trouble ? e.whole : String(e));
    }
  };
  if (!open)
    return (
      <div>
        <button type="button" className="linkbtn" onClick={() => setOpen(true)}>
          Save as a recipe
        </button>
        <p className="small soft">A recipe is a set-up that worked, with all its lengths, to be used again at another place.</p>
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
          Save recipe
        </Button>
        <span role="alert">{told}</span>
      </div>
    </form>
  );
}
