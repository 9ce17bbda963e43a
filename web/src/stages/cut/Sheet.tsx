import type { UseFormReturn } from "react-hook-form";
import type { Schemas } from "../../api/client";
import { type Asked, slot } from "../../parts/AskFields";
import { LengthField } from "../../parts/fields";

const both = (l: Schemas["Length"], imperial: boolean) => (imperial ? [l.imperial, l.metric] : [l.metric, l.imperial]);

/** The cut list: what each piece has of length, what is added, what is cut, in both systems at once. */
export function CutList({ plan, imperial }: { plan: Schemas["Plan"]; imperial: boolean }) {
  return (
    <div className="scroll" tabIndex={0} role="region" aria-label="Cut list">
      <table className="cutlist">
        <thead>
          <tr>
            <th>Piece</th>
            <th className="num">Electrical</th>
            <th>Added</th>
            <th className="num">Cut</th>
          </tr>
        </thead>
        <tbody>
          {(plan.pieces ?? []).map((p) => (
            <tr key={p.name}>
              <td>
                {p.title}
                {p.of !== "wire" && <div className="small soft">{p.of}</div>}
              </td>
              <td className="mono tide">
                {both(p.electrical, imperial)[0]}
                <br />
                <span className="small">{both(p.electrical, imperial)[1]}</span>
              </td>
              <td className="small">
                {p.allowances.map((a) => (
                  <div key={a.name}>
                    {a.name} <span className="mono">{both(a.length, imperial)[0]}</span>
                  </div>
                ))}
                {(p.trim.m ?? 0) > 0 && (
                  <div>
                    to trim <span className="mono">{both(p.trim, imperial)[0]}</span>
                  </div>
                )}
              </td>
              <td className="mono">
                <b className="cut">{both(p.cut, imperial)[0]}</b>
                <br />
                {both(p.cut, imperial)[1]}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

type MeasureForm = { t: Record<string, string> };

/** The fields of measuring twice: one for each piece that was cut. */
export const measuredFields = (m: Schemas["Measure"] | undefined): Asked[] =>
  (m?.rows ?? []).map((r) => ({ id: `measured.${r.key}`, label: r.name, kind: "length" }));

/** Measure twice: what was really cut beside the list, and whether it is the tape's doing. */
export function MeasureTwice<T extends MeasureForm>({
  measure,
  form,
  unit,
  imperial,
}: {
  measure: Schemas["Measure"];
  form: UseFormReturn<T>;
  unit: string;
  imperial: boolean;
}) {
  const f = form as unknown as UseFormReturn<MeasureForm>;
  return (
    <div className="stack">
      <p role="status" className={`note ${measure.tone === "tape" || measure.tone === "piece" ? "error" : "quiet"}`}>
        {measure.sentence}
      </p>
      <table className="dense measure">
        <thead>
          <tr>
            <th>Piece</th>
            <th>to cut</th>
            <th>measured</th>
            <th>off</th>
          </tr>
        </thead>
        <tbody>
          {measure.rows.map((r) => (
            <tr key={r.key}>
              <td>{r.name}</td>
              <td className="mono">{both(r.cut, imperial)[0]}</td>
              <td className="typed">
                <LengthField
                  form={f}
                  name={slot(`measured.${r.key}`) as `t.${string}`}
                  label=""
                  unit={unit}
                  autoComplete="off"
                  slotProps={{ htmlInput: { "aria-label": `${r.name} as measured, ${unit}` } }}
                />
              </td>
              <td className="mono">
                {r.measured?.m ? (
                  <>
                    {r.diff_mm > 0 ? "+" : ""}
                    {r.diff_mm.toFixed(0)} mm
                    <br />
                    {r.percent > 0 ? "+" : ""}
                    {r.percent.toFixed(1)} %
                  </>
                ) : null}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
