import Button from "@mui/material/Button";
import { useEffect, useRef } from "react";
import type { Schemas } from "../../api/client";
import { Tag } from "../../parts/Tag";
import { LayOut } from "../raise/LayOut";

/** The antennas of the outing, and the ways to another one. */
export function Tags({ outing, at, onPick }: { outing: Schemas["OutingDetail"]; at: string; onPick: (id: string) => void }) {
  const id = outing.outing.id;
  const row = useRef<HTMLDivElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the row follows the tag that is picked
  useEffect(() => {
    const on = row.current?.querySelector<HTMLElement>('[aria-pressed="true"]');
    if (row.current && on) row.current.scrollLeft = on.offsetLeft - row.current.offsetLeft - 3;
  }, [at]);
  if (outing.tags.length === 0) return <LayOut outing={id} />;
  return (
    <div className="stack tight noprint">
      <div className="tagrow small" ref={row}>
        {outing.tags.map((t) => (
          <Tag key={t.id} tag={t} pressed={t.id === at} onClick={() => onPick(t.id)} />
        ))}
      </div>
      <div className="row strip">
        <Button variant="outlined" onClick={() => onPick("new")} aria-pressed={at === "new"}>
          Another antenna
        </Button>
        {outing.tags.length > 1 && (
          <Button variant="outlined" onClick={() => onPick("beside")} aria-pressed={at === "beside"}>
            Cut lists side by side
          </Button>
        )}
        <LayOut outing={id} />
      </div>
    </div>
  );
}
