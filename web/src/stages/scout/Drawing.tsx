import Button from "@mui/material/Button";
import { useState } from "react";
import type { Schemas } from "../../api/client";

type Spot = [number, number];

const least = { spot: 1, line: 2, area: 3 };

/** What is being drawn into the plan: a kind of thing and its points so far, or corners that are moved. */
export function useDrawing(kinds: Schemas["SiteKind"][], add: (kind: string, points: Spot[]) => Promise<void>) {
  const [what, set] = useState("");
  const [points, setPoints] = useState<Spot[]>([]);
  const kind = kinds.find((k) => k.id === what);
  const choose = (id: string) => {
    set(id);
    setPoints([]);
  };
  const tap = (p: Spot) => {
    if (kind?.shape === "spot") void add(kind.id, [p]);
    else if (kind) setPoints([...points, p]);
  };
  const finish = () => {
    if (kind) void add(kind.id, points).then(() => setPoints([]));
  };
  const ready = kind !== undefined && points.length >= least[kind.shape];
  return { kinds, what, choose, kind, points, tap, finish, ready, back: () => setPoints(points.slice(0, -1)) };
}

export type Drawing = ReturnType<typeof useDrawing>;

/** What the next touch of the plan does. */
export function DrawingBar({ of: d }: { of: Drawing }) {
  return (
    <div className="row drawingbar">
      <select className="pick" aria-label="Tool of the site plan" value={d.what} onChange={(e) => d.choose(e.target.value)}>
        <option value="">Move objects</option>
        <option value="corners">Move corners</option>
        {d.kinds.map((k) => (
          <option key={k.id} value={k.id}>
            Draw: {k.name}
          </option>
        ))}
      </select>
      {d.kind && d.kind.shape !== "spot" && (
        <>
          <Button variant="contained" disabled={!d.ready} onClick={d.finish}>
            Done
          </Button>
          <Button variant="outlined" disabled={d.points.length === 0} onClick={d.back}>
            Remove the last point
          </Button>
        </>
      )}
    </div>
  );
}
