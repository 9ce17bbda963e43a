import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import { answered, NoLink, refresh, Trouble, wire } from "../api/client";

const device = () => (/phone|android/i.test(navigator.userAgent) ? "a phone" : "a computer");

/** The pairing word that stood in the address, as from a QR code. */
const offered = () => new URLSearchParams(location.hash.slice(1)).get("pair") ?? "";

/** What stands before the notebook on a device that was not let in yet. */
export default function Pair({ onDone }: { onDone: () => void }) {
  const [secret, setSecret] = useState(offered);
  const [name, setName] = useState(device);
  const [trouble, setTrouble] = useState("");
  const pair = async () => {
    setTrouble("");
    try {
      await answered(wire.POST("/api/access", { body: { secret: secret.trim(), name: name.trim() } }));
      history.replaceState(null, "", location.pathname);
      await refresh();
      onDone();
    } catch (e) {
      setTrouble(e instanceof Trouble ? e.whole : e instanceof NoLink ? e.message : String(e));
    }
  };
  return (
    <main className="main gate" id="main">
      <form
        className="stack"
        onSubmit={(e) => {
          e.preventDefault();
          void pair();
        }}
      >
        <div className="say">
          <h1>This notebook does not know this device yet.</h1>
          <p>
            The pairing word is shown where the notebook was started, and in its Settings under “Devices”. It works once. A passphrase works
            too.
          </p>
        </div>
        <TextField
          label="Pairing word or passphrase"
          name="secret"
          value={secret}
          onChange={(e) => setSecret(e.target.value)}
          autoComplete="off"
          autoFocus
          slotProps={{ htmlInput: { className: "mono", autoCapitalize: "characters", spellCheck: false, maxLength: 200 } }}
        />
        <TextField
          label="Device name"
          name="device-name"
          value={name}
          onChange={(e) => setName(e.target.value)}
          slotProps={{ htmlInput: { maxLength: 60 } }}
        />
        {trouble && (
          <div className="note error" role="alert">
            {trouble}
          </div>
        )}
        {location.protocol === "https:" && (
          <details className="fold">
            <summary>For offline use on this device</summary>
            <ol className="plain small">
              <li>
                1. Download <a href="/notebook-root.crt">this notebook's certificate authority</a>.
              </li>
              <li>2. Open the file, and install it as a trusted authority for websites.</li>
              <li>3. Open this page again: the browser no longer warns, and keeps the notebook for offline use.</li>
            </ol>
          </details>
        )}
        <div>
          <Button type="submit" variant="contained" disabled={secret.trim() === "" || name.trim() === ""}>
            Pair this device
          </Button>
        </div>
      </form>
    </main>
  );
}
