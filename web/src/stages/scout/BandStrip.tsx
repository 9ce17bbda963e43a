import type { Schemas } from "../../api/client";
import { utc } from "./DayStrip";

const states = { open: "open", perhaps: "some days", shut: "shut", weak: "weak" };

const marks = { open: "●", perhaps: "◐", weak: "–", shut: "×" };

/** The hours of the outing: bands as they open and shut, and the moments that count. */
export function BandStrip({ day }: { day: Schemas["ScoutDay"] }) {
  return (
    <section className="stack" aria-label="Band conditions">
      <div className="scroll">
        <table className="hours">
          <thead>
            <tr>
              <th>Band</th>
              {day.bands[0]?.hours.map((h) => (
                <th key={h.at} className="mono">
                  {utc(h.at).slice(0, 2)}
                </th>
              ))}
              <th>by rule of thumb</th>
            </tr>
          </thead>
          <tbody>
            {day.bands.map((b) => (
              <tr key={b.mhz}>
                <th scope="row">{b.name}</th>
                {b.hours.map((h) => (
                  <td
                    key={h.at}
                    className={`hour ${h.state}`}
                    title={`${states[h.state]}: highest usable frequency ${h.muf_mhz.toFixed(1)} MHz`}
                  >
                    <span className="small">{marks[h.state]}</span>
                  </td>
                ))}
                <td className="small">{b.says}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="small soft">● open, ◐ on some days, – too weak, × above the highest usable frequency</p>
      <ul className="plain events">
        {day.events.map((e) => (
          <li key={e.kind + e.at}>
            <span className="mono">{utc(e.at)}</span> {e.says}
          </li>
        ))}
      </ul>
      {day.says.map((s) => (
        <p key={s}>{s}</p>
      ))}
    </section>
  );
}
