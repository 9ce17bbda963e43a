import Button from "@mui/material/Button";
import { useEffect, useState } from "react";
import { useAway } from "../api/live";

const hour = 3_600_000;

/** Offers to reload once a newer version of the page is installed: until then this one goes on. */
export function NewVersion() {
  const [next, setNext] = useState<ServiceWorker>();
  const away = useAway();
  useEffect(() => {
    let registration: ServiceWorkerRegistration | undefined;
    // The first one waits for nobody: that is no new version.
    const found = () => {
      const worker = registration?.installing ?? registration?.waiting;
      const installed = () => worker?.state === "installed" && registration?.active && setNext(worker);
      worker?.addEventListener("statechange", installed);
      installed();
    };
    void navigator.serviceWorker?.ready.then((r) => {
      registration = r;
      r.addEventListener("updatefound", found);
      found();
    });
    const timer = setInterval(() => void look(), hour);
    return () => {
      registration?.removeEventListener("updatefound", found);
      clearInterval(timer);
    };
  }, []);
  // A server that was away may have come back as another version.
  useEffect(() => {
    if (!away) void look();
  }, [away]);
  if (!next) return null;
  return (
    <div className="note row" role="status">
      <span>A new version of the notebook is ready. What you typed is kept.</span>
      <Button variant="outlined" onClick={() => changeTo(next)}>
        Reload
      </Button>
    </div>
  );
}

/** Lets the installed version take over. Until then the old one keeps its files, so that every screen of this page still opens. */
function changeTo(next: ServiceWorker) {
  navigator.serviceWorker.addEventListener("controllerchange", () => location.reload(), { once: true });
  next.postMessage({ type: "SKIP_WAITING" });
}

/** Asks for a newer version; without a link there is none. */
const look = async () => {
  const registration = await navigator.serviceWorker?.getRegistration();
  await registration?.update().catch(() => undefined);
};
