import Button from "@mui/material/Button";
import { useEffect, useState } from "react";
import { useAway } from "../api/live";

const hour = 3_600_000;

/** Offers to reload once a newer version of the page is installed: until then this one goes on. */
export function NewVersion() {
  const [ready, setReady] = useState(false);
  const away = useAway();
  useEffect(() => {
    const workers = navigator.serviceWorker;
    if (!workers) return;
    // The first one takes over a page that had none: that is no new version.
    let had = workers.controller !== null;
    const changed = () => {
      if (had) setReady(true);
      had = true;
    };
    workers.addEventListener("controllerchange", changed);
    const timer = setInterval(() => void look(), hour);
    return () => {
      workers.removeEventListener("controllerchange", changed);
      clearInterval(timer);
    };
  }, []);
  // A server that was away may have come back as another version.
  useEffect(() => {
    if (!away) void look();
  }, [away]);
  if (!ready) return null;
  return (
    <div className="note row" role="status">
      <span>A new version of the notebook is ready. What you typed is kept.</span>
      <Button variant="outlined" onClick={() => location.reload()}>
        Reload
      </Button>
    </div>
  );
}

/** Asks for a newer version; without a link there is none. */
const look = async () => {
  const registration = await navigator.serviceWorker?.getRegistration();
  await registration?.update().catch(() => undefined);
};
