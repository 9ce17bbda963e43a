import { useEffect, useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { keepDeployment, keepUsed, lastDeployment, usedDeployment } from "./place";
import { Tag } from "./Tag";

/** The antenna at hand of an outing, remembered, with the row of tags to pick another. */
export function useAntenna(outing: Schemas["OutingDetail"]) {
  const id = outing.outing.id;
  const [at, setAt] = useState(() => lastDeployment(id));
  const tag = outing.tags.find((t) => t.id === at) ?? outing.tags[0];
  const pick = (t: string) => {
    keepDeployment(id, t);
    setAt(t);
  };
  const [box, setBox] = useState<HTMLDivElement | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the row follows the tag that is picked
  useEffect(() => {
    const on = box?.querySelector<HTMLElement>('[aria-pressed="true"]');
    if (box && on) box.scrollLeft = on.offsetLeft - box.offsetLeft - 3;
  }, [tag?.id, box]);
  const row = (
    <div className="tagrow small" ref={setBox}>
      {outing.tags.map((t) => (
        <Tag key={t.id} tag={t} pressed={t.id === tag?.id} onClick={() => pick(t.id)} />
      ))}
    </div>
  );
  return { tag, row, pick };
}

/** The antenna in use in Work: what was chosen there, otherwise the first that is up. */
export function useAntennaInUse(outing: Schemas["OutingDetail"]) {
  const id = outing.outing.id;
  const [at, setAt] = useState(() => usedDeployment(id));
  const tag = outing.tags.find((t) => t.id === at) ?? outing.tags.find((t) => t.state !== "planned") ?? outing.tags[0];
  const pick = (t: string) => {
    keepUsed(id, t);
    setAt(t);
  };
  return { tag, pick };
}

export function NoAntenna({ outing }: { outing: Schemas["OutingDetail"] }) {
  return (
    <div className="stack say">
      <h1>No antenna yet. Plan one first.</h1>
      <p>Enter a frequency and the height of your pole; the plan gives every length. After raising it, record what you measured.</p>
      <Link to={`/o/${outing.outing.id}/cut`}>Plan an antenna</Link>
    </div>
  );
}
