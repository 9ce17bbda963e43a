import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import { useState } from "react";
import { keysOff, switchKeys } from "./keysOff";
import "./Keys.css";

/** The keys that lead everywhere, as the question mark shows them. */
export default function KeyList({ keys, onClose }: { keys: [string, string][]; onClose: () => void }) {
  const [off, setOff] = useState(keysOff);
  return (
    <Dialog open onClose={onClose} aria-labelledby="keys-title">
      <div className="stack keys">
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
        <label className="tall">
          <input
            type="checkbox"
            checked={off}
            onChange={(e) => {
              switchKeys(e.target.checked);
              setOff(e.target.checked);
            }}
          />{" "}
          Switch single-key shortcuts off on this device
        </label>
        <Button variant="contained" onClick={onClose} autoFocus>
          Close
        </Button>
      </div>
    </Dialog>
  );
}
