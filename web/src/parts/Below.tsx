import { type ReactNode, startTransition, useEffect, useState } from "react";

let stood = false;

/** What stands below a headline: on the first screen of a visit when the headline has been painted, after that at once. */
export function Below({ children }: { children: ReactNode }) {
  const [here, setHere] = useState(stood);
  useEffect(() => {
    if (here) return;
    // In the task behind the frame; in a tab that is not seen there are no frames.
    const follow = () => {
      stood = true;
      startTransition(() => setHere(true));
    };
    let timer = setTimeout(follow, 200);
    const frame = requestAnimationFrame(() => {
      clearTimeout(timer);
      timer = setTimeout(follow, 0);
    });
    return () => {
      cancelAnimationFrame(frame);
      clearTimeout(timer);
    };
  }, [here]);
  return here ? children : null;
}
