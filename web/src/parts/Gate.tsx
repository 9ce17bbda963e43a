import { lazy, type ReactNode, Suspense, useEffect, useState } from "react";
import { useGet } from "../api/client";

const Pair = lazy(() => import("./Pair"));

/** Shows the notebook to devices that may use it, and the pairing page to others. What waits in the box stays. */
export function Gate({ children }: { children: ReactNode }) {
  const access = useGet("/api/access");
  const [locked, setLocked] = useState(false);
  useEffect(() => {
    const out = () => setLocked(true);
    addEventListener("locked-out", out);
    return () => removeEventListener("locked-out", out);
  }, []);
  // Without a link the notebook shows what is kept here.
  if (locked || access.data?.allowed === false)
    return (
      <Suspense>
        <Pair onDone={() => setLocked(false)} />
      </Suspense>
    );
  return children;
}
