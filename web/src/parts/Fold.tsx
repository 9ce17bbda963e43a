import { type ReactNode, useSyncExternalStore } from "react";

const wide = matchMedia("(min-width: 821px), print");
const watch = (then: () => void) => {
  wide.addEventListener("change", then);
  return () => wide.removeEventListener("change", then);
};

/** Whether there is room for two columns; on paper there is. */
export const useWide = () => useSyncExternalStore(watch, () => wide.matches);

/** What stands open where there is room, under its name as a heading if it has none, and behind its name in one line where
 * there is not. */
export function Fold({ name, says, head, children }: { name: string; says?: string; head?: boolean; children: ReactNode }) {
  if (useWide())
    return (
      <>
        {head && <h2>{name}</h2>}
        {children}
      </>
    );
  return (
    <details className="fold aside">
      <summary>
        <span>
          <span className="nobreak">{name}</span> {says && <span className="line soft">{says}</span>}
        </span>
      </summary>
      <div className="stack">{children}</div>
    </details>
  );
}
