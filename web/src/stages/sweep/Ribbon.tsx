import { useEffect, useRef } from "react";
import type { Schemas } from "../../api/client";
import { metres } from "../../draw/numbers";

/** The bands, the wanted ones first: how much of each segment is good, and which one is looked at. */
export function Ribbon({ of: w, onPick }: { of: Schemas["ReadingView"]; onPick: (band: string) => void }) {
  const ribbon = useRef<HTMLDivElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the ribbon follows the band that is shown
  useEffect(() => {
    const box = ribbon.current;
    const now = box?.querySelector<HTMLElement>('[aria-pressed="true"]');
    if (box && now) box.scrollLeft = now.offsetLeft - box.offsetLeft - box.clientWidth / 2 + now.clientWidth / 2;
  }, [w.band]);
  return (
    <div className="ribbon" ref={ribbon} role="group" aria-label="Bands">
      {w.bands.map((b) => (
        <button key={b.band} type="button" aria-pressed={b.band === w.band} onClick={() => onPick(b.band)}>
          <span className="gauge">
            <i style={{ height: `${b.known ? b.coverage : 0}%` }} />
          </span>
          <span>
            <b>{metres(b.band)}</b>
            <br />
            {b.measured ? (
              <span>
                <span className="mono">{b.says}</span> <span className="small">{b.known ? `${b.coverage.toFixed(0)} %` : "read"}</span>
              </span>
            ) : (
              <span className="small soft">{b.wanted ? "wanted" : "not swept"}</span>
            )}
          </span>
        </button>
      ))}
    </div>
  );
}
