import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import { v7 as uuid } from "uuid";
import { Trouble, useGet } from "../../api/client";
import { send } from "../../api/outbox";
import { keepDeployment } from "../../parts/place";
import "./raise.css";

/** Lay a recipe out at this outing: every length as it was, nothing is cut. */
export function LayOut({ outing }: { outing: string }) {
  const go = useNavigate();
  const list = useGet("/api/recipes");
  const [told, setTold] = useState("");
  const fresh = useRef(uuid());
  const all = list.data ?? [];
  if (all.length === 0) return null;
  const lay = async (recipe: string) => {
    const id = fresh.current;
    fresh.current = uuid();
    try {
      const done = await send("put", "/api/deployments/{id}/layout", { id: id }, { outing_id: outing, recipe_id: recipe }, "A recipe used");
      keepDeployment(outing, id);
      if (done) void go(`/o/${outing}/raise`);
      else setTold("No connection: saved on this device, synced later.");
    } catch (e) {
      setTold(e instanceof Trouble ? e.whole : String(e));
    }
  };
  return (
    <label className="layout-recipe">
      <select className="pick" aria-label="Use a recipe" value="" onChange={(e) => void lay(e.target.value)}>
        <option value="">Use a recipe</option>
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
