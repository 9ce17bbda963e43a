import { lazy, Suspense, useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { nextLight } from "../theme/light";
import { lastOuting } from "./place";
import { stages } from "./Stalk";

const KeyList = lazy(() => import("./KeyList"));

const keys: [string, string][] = [
  ["1 to 6", "Scout, Cut, Raise, Sweep, Work, Weigh"],
  ["0", "the shelf"],
  ["7", "the bag"],
  ["8", "the bench"],
  ["9", "settings"],
  ["p", "practice"],
  ["t", "light: paper, sun, dusk"],
  ["?", "this list"],
  ["Esc", "leave a field, so that these keys work"],
  ["space", "in Work, on an empty line: the next antenna"],
  ["Enter", "in Work: log the line"],
];

const typing = (e: KeyboardEvent) => {
  const t = e.target as HTMLElement;
  if (t instanceof HTMLInputElement) return !["radio", "checkbox", "file"].includes(t.type);
  return t instanceof HTMLTextAreaElement || t instanceof HTMLSelectElement || t.isContentEditable;
};

export function Keys() {
  const [open, setOpen] = useState(false);
  const go = useNavigate();
  useEffect(() => {
    const on = (e: KeyboardEvent) => {
      if (e.ctrlKey || e.metaKey || e.altKey || e.defaultPrevented) return;
      if (e.key === "Escape" && typing(e)) (e.target as HTMLElement).blur();
      if (typing(e)) return;
      const stage = stages[Number(e.key) - 1];
      const outing = lastOuting();
      if (e.key === "?") setOpen((v) => !v);
      else if (e.key === "t") nextLight();
      else if (e.key === "0") void go("/");
      else if (e.key === "7") void go("/bag");
      else if (e.key === "8") void go("/bench");
      else if (e.key === "9") void go("/settings");
      else if (e.key === "p") void go("/practice");
      else if (stage && outing) void go(`/o/${outing}/${stage[0]}`);
    };
    addEventListener("keydown", on);
    return () => removeEventListener("keydown", on);
  }, [go]);
  if (!open) return null;
  return (
    <Suspense>
      <KeyList keys={keys} onClose={() => setOpen(false)} />
    </Suspense>
  );
}
