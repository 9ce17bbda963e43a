import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { metres, mhz } from "../../draw/numbers";
import { Picks } from "../../parts/fields";
import type { useSolver, useView } from "./useSweep";

type Trim = Schemas["TrimAdvice"];

/** The judgement above the picture: what to do with the antenna, what it follows from, what this band shows, and what of it can be
 * chosen. */
export function Word({ of, solver, name }: { of: ReturnType<typeof useView>; solver: ReturnType<typeof useSolver>; name: string }) {
  const w = of.view.data;
  const { trim, ways, setWay, advice, asked } = solver;
  const seq = (id?: string) => of.revisions.find((r) => r.id === id)?.seq;
  const older = of.current?.id !== of.last?.id;
  const waits = w?.before !== undefined;
  const none = {
    headline: `No sweep of ${name} in this band yet.`,
    detail: "Import an analyser file, or type a few SWR readings from the radio's meter.",
  };
  let word: { headline: string; detail: string } = w?.verdict ?? none;
  if (waits)
    word = {
      headline: `r${of.last?.seq} of ${name} waits for its sweep.`,
      detail: `It was changed since r${seq(w?.before)} was swept. Sweep it again, then it can be judged.`,
    };
  else if (trim) word = trim;
  else if (asked && advice.running) word = { headline: "Computing what to change.", detail: "" };
  const ofBand = word !== w?.verdict && word !== none && !waits;
  return (
    <div className={`say word ${asked && !waits ? "changes" : ""}`}>
      <h1>{word.headline}</h1>
      <p className="what">{word.detail}</p>
      {ofBand && w?.verdict && (
        <p className="small">
          On {metres(w.band)}: {w.verdict.detail}
        </p>
      )}
      {!waits && ways.length > 1 && (
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
      {older && (
        <p>
          This is r{of.current?.seq}; r{of.last?.seq} ({of.last?.reason}) is the newest.
        </p>
      )}
    </div>
  );
}

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
      {trim && !trim.done && trim.foreseen.length > 0 && (
        <table className="dense">
          <thead>
            <tr>
              <th>wanted, MHz</th>
              <th>now</th>
              <th>next sweep</th>
              <th>chance of cutting too short</th>
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
