import { useState } from "react";
import type { UseFormReturn } from "react-hook-form";
import type { Schemas } from "../../api/client";
import { toAdd, toCut } from "../../draw/numbers";
import { type Asked, AskFields, slot } from "../../parts/AskFields";
import { LengthField } from "../../parts/fields";

/** The cut list: what each piece has of length, what is added, what is cut; in the other system when asked for. */
export function CutList({ plan, imperial }: { plan: Schemas["Plan"]; imperial: boolean }) {
  const [other, setOther] = useState(false);
  const inFeet = imperial !== other;
  return (
    <div className="scroll" tabIndex={0} role="region" aria-label="Cut list">
      <table className="cutlist">
        <thead>
          <tr>
            <th>Piece</th>
            <th className="num">Electrical</th>
            <th>Allowances</th>
            <th className="num">Cut</th>
            <th className="onpaper">Measured</th>
          </tr>
        </thead>
        <tbody>
          {(plan.pieces ?? []).map((p) => (
            <tr key={p.name}>
              <td>
                {p.title}
                {p.of !== "wire" && <div className="small soft">{p.of}</div>}
              </td>
              <td className="mono tide">{toCut(p.electrical, inFeet)}</td>
              <td className="small">
                {p.at_hand && "existing wire, used as it is"}
                {p.allowances.map((a) => (
                  <div key={a.name}>
                    {a.name} <span className="mono nobreak">{toAdd(a.length, inFeet)}</span>
                  </div>
                ))}
                {(p.trim.m ?? 0) > 0 && (
                  <div>
                    trim allowance <span className="mono nobreak">{toAdd(p.trim, inFeet)}</span>
                  </div>
                )}
              </td>
              <td className="mono">
                <b className="cut">{toCut(p.cut, inFeet)}</b>
              </td>
              <td className="onpaper" />
            </tr>
          ))}
        </tbody>
      </table>
      <p className="row small soft">
        <span className="hide-phone">Electrical: the working length, without allowances.</span>
        <button type="button" className="linkbtn small noprint" onClick={() => setOther(!other)}>
          {inFeet ? "In metres" : "In feet and inches"}
        </button>
      </p>
    </div>
  );
}

type MeasureForm = { t: Record<string, string> };

/** The fields of measuring twice: one for each piece that was cut. */
export const measuredFields = (m: Schemas["Measure"] | undefined): Asked[] =>
  m ? [measuredAs, ...m.rows.map((r): Asked => ({ id: `measured.${r.key}`, label: r.name, kind: "length" }))] : [];

/** What the tape was laid on. */
const measuredAs: Asked = {
  id: "measured_as",
  label: "Measured",
  kind: "choice",
  options: [
    { id: "cut", name: "the cut wire, end to end" },
    { id: "hung", name: "between the knots, as it hangs" },
  ],
};

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
      <AskFields form={f} fields={[measuredAs]} unit={unit} />
      <table className="dense measure">
        <thead>
          <tr>
            <th>Piece</th>
            <th>target</th>
            <th>measured</th>
            <th>off</th>
          </tr>
        </thead>
        <tbody>
          {measure.rows.map((r) => (
            <tr key={r.key}>
              <td>{r.name}</td>
              <td className="mono">{toCut(r.cut, imperial)}</td>
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
