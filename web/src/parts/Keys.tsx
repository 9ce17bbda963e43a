import { lazy, Suspense, useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { nextLight } from "../theme/light";
import { keysOff, keysPaused } from "./keysOff";
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
  ["t", "theme: light, high contrast, dark"],
  ["?", "this list"],
  ["Esc", "leave a field, so that these keys work"],
  ["space", "in Work, on an empty line: the next antenna"],
  ["Enter", "in Work: log the line"],
  ["arrow up", "in Work, on an empty line: the last line again, to be corrected"],
  ["Alt and n, f, v, r, i, w, p, m", "in Work: nothing heard, noise, battery, RF, interference, weather, a pair, field strength"],
];

const typing = (e: KeyboardEvent) => {
  const t = e.target as HTMLElement;
  if (t instanceof HTMLInputElement) return !["radio", "checkbox", "file"].includes(t.type);
  return t instanceof HTMLTextAreaElement || t instanceof HTMLSelectElement || t.isContentEditable;
};

const digit = (e: KeyboardEvent) => /^\d$/.test(e.key);

/** The keys that lead from screen to screen. Whoever goes by digits keeps going, also where a field has taken the focus: until
 * another key is pressed, or the screen is touched. */
export function Keys() {
  const [open, setOpen] = useState(false);
  const going = useRef(false);
  const go = useNavigate();
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      if (e.ctrlKey || e.metaKey || e.altKey || e.defaultPrevented) return;
      if (e.key === "Escape" && typing(e)) (e.target as HTMLElement).blur();
      if (keysPaused() || keysOff()) {
        going.current = false;
        if (e.key === "?" && !typing(e)) setOpen((v) => !v);
        return;
      }
      const on = going.current && digit(e);
      going.current = false;
      if (typing(e)) {
        if (!on || (e.target as HTMLInputElement).value !== "") return;
        e.preventDefault();
      }
      going.current = digit(e);
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
    const touch = () => {
      going.current = false;
    };
    addEventListener("keydown", press);
    addEventListener("pointerdown", touch);
    return () => {
      removeEventListener("keydown", press);
      removeEventListener("pointerdown", touch);
    };
  }, [go]);
  if (!open) return null;
  return (
    <Suspense>
      <KeyList keys={keys} onClose={() => setOpen(false)} />
    </Suspense>
  );
}
