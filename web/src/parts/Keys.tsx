import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { nextLight } from "../theme/theme";
import { lastOuting } from "./place";
import { stages } from "./Stalk";

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
  return (
    <Dialog open={open} onClose={() => setOpen(false)} aria-labelledby="keys-title">
      <div className="stack" style={{ padding: 24 }}>
        <h2 id="keys-title">Keys</h2>
        <table>
          <tbody>
            {keys.map(([k, what]) => (
              <tr key={k}>
                <td>
                  <kbd>{k}</kbd>
                </td>
                <td>{what}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <Button variant="contained" onClick={() => setOpen(false)} autoFocus>
          Close
        </Button>
      </div>
    </Dialog>
  );
}
