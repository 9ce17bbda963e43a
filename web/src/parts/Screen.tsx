import { type ComponentType, useEffect, useState } from "react";
import type { Schemas } from "../api/client";
import { screens } from "../screens";
import { Opening } from "./Opening";

type Name = keyof typeof screens;
type Page = ComponentType<{ outing: Schemas["OutingDetail"] }>;

const here = new Map<Name, Page>();

/** A screen, fetched when it is opened. React's own lazy would show it 300 ms after its placeholder at the soonest. */
export function Screen({ of, outing }: { of: Name; outing?: Schemas["OutingDetail"] }) {
  const [page, setPage] = useState<{ of: Name; at?: Page; broke?: Error }>({ of, at: here.get(of) });
  const known = page.of === of ? page : { at: here.get(of) };
  useEffect(() => {
    let asked = true;
    if (!here.has(of))
      screens[of]().then(
        (m) => {
          here.set(of, m.default as Page);
          if (asked) setPage({ of, at: m.default as Page });
        },
        (broke) => asked && setPage({ of, broke }),
      );
    return () => {
      asked = false;
    };
  }, [of]);
  // Whoever guards the screen says what failed.
  if ("broke" in known && known.broke) throw known.broke;
  // What belongs to no outing does not ask for one.
  return known.at ? <known.at outing={outing as Schemas["OutingDetail"]} /> : <Opening />;
}
