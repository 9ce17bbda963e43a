import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { mhz } from "../../draw/numbers";
import { Picks } from "../../parts/fields";
import type { useSolver, useView } from "./useSweep";

type Trim = Schemas["TrimAdvice"];

/** The judgement above the picture: what to do, what it follows from, and what of it can be chosen. */
export function Word({ of, solver, name }: { of: ReturnType<typeof useView>; solver: ReturnType<typeof useSolver>; name: string }) {
  const w = of.view.data;
  const { trim, ways, setWay } = solver;
  const word = trim ??
    w?.verdict ?? {
      headline: `No sweep of ${name} in this band yet.`,
      detail: "Attach what the analyser wrote, or type a few SWR readings from the radio's meter.",
    };
  return (
    <div className={`say word ${w?.verdict && ["long", "short"].includes(w.verdict.tone) ? "changes" : ""}`}>
      <h1>{word.headline}</h1>
      <p>{word.detail}</p>
      {ways.length > 1 && (
        <Picks
          legend="Change"
          name="way"
          value={trim?.way ?? ""}
          onChange={setWay}
          options={ways.map((x) => ({ id: x.way ?? "", label: x.way ?? "" }))}
        />
      )}
      {w?.hidden && (
        <p className="note error" role="status">
          {w.hidden}
        </p>
      )}
      {unswept(of) && (
        <p>
          This is r{of.current?.seq}; r{of.last?.seq} ({of.last?.reason}) is not swept yet.
        </p>
      )}
    </div>
  );
}

/** Whether the newest revision is not the one that is shown, and has no sweep in this band. */
export const unswept = ({ view, last, current }: ReturnType<typeof useView>) =>
  last?.id !== current?.id && view.data?.reading !== undefined && !view.data.curves.some((c) => c.id === last?.id);

function Row({ of: x }: { of: Trim["foreseen"][number] }): ReactNode {
  return (
    <tr>
      <td className="mono">{mhz(x.hz)}</td>
      <td className="mono copper">{mhz(x.now_hz)}</td>
      <td className="mono tide">
        {mhz(x.expect_hz)}
        <span className="small block">
          {mhz(x.range_hz[0] ?? 0)} to {mhz(x.range_hz[1] ?? 0)}
        </span>
      </td>
      <td className="mono tide">{x.short_percent < 0.1 ? "<0.1" : x.short_percent.toFixed(1)} %</td>
    </tr>
  );
}

/** What the advice does to each wire, and what the next sweep should show. */
export function Foreseen({ of: trim }: { of?: Trim }) {
  return (
    <>
      {trim?.more && <p>{trim.more}</p>}
      {trim && trim.wires.length > 1 && (
        <ul className="assumed">
          {trim.wires.map((x) => (
            <li key={x.label}>{x.says}</li>
          ))}
        </ul>
      )}
      {trim && !trim.done && trim.foreseen.length > 0 && (
        <table className="dense">
          <thead>
            <tr>
              <th>wanted, MHz</th>
              <th>now</th>
              <th>next sweep</th>
              <th>risk: ends too short</th>
            </tr>
          </thead>
          <tbody>
            {trim.foreseen.map((x) => (
              <Row key={x.hz} of={x} />
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}
