import type { ReactNode } from "react";
import type { Tag as TagOf } from "../api/client";
import { Sketch } from "../draw/Sketch";
import "./Tag.css";

const states: Record<string, string> = { planned: "planned", up: "up", swept: "swept", worked: "on the air" };

/** The plant label under which a deployment is shown everywhere. */
export function Tag({ tag, pressed, onClick, below }: { tag: TagOf; pressed?: boolean; onClick?: () => void; below?: ReactNode }) {
  return (
    <button type="button" className={`tag ${tag.state}`} aria-pressed={pressed} onClick={onClick}>
      <b>
        {tag.name} <i>{tag.letter}</i>
      </b>
      <Sketch family={tag.family} variant={tag.variant} />
      <span>
        {tag.radiator} {tag.detail}
      </span>
      <span>{tag.height}</span>
      <span className="state">{below ?? states[tag.state] ?? tag.state}</span>
    </button>
  );
}
