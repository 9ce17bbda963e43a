import Button from "@mui/material/Button";
import { useState } from "react";
import { answered, Trouble, useGet, wire } from "../../api/client";

/** The way into a notebook of made-up data, to look round before anything of one's own is written. */
export function LookRound() {
  const access = useGet("/api/access");
  const [busy, setBusy] = useState(false);
  const [told, setTold] = useState("");
  if (!access.data?.round) return null;
  const go = async () => {
    setBusy(true);
    setTold("");
    try {
      location.assign((await answered(wire.POST("/api/round"))).address);
    } catch (e) {
      setBusy(false);
      setTold(e instanceof Trouble ? e.whole : String((e as Error).message));
    }
  };
  return (
    <div className="stack tight">
      <div>
        <Button variant="outlined" disabled={busy} onClick={() => void go()}>
          {busy ? "Opening the demo notebook…" : "Try the demo notebook"}
        </Button>
      </div>
      <p className="small soft" role="status">
        {told ||
          "Four sample outings with antennas, sweeps and contacts, in a notebook of their own. One press brings you back to this page."}
      </p>
    </div>
  );
}
