import type { ReactNode } from "react";
import type { Path, UseFormReturn } from "react-hook-form";
import { type Schemas, useReference } from "../../api/client";
import { slot } from "../../parts/AskFields";
import { Figures, Schools, Strips, Tables, withoutEstimates } from "../../parts/Figures";
import { Fold } from "../../parts/Fold";
import { Forecast } from "../../parts/Forecast";
import type { Computing } from "../../parts/useComputed";
import { Lessons } from "./Lessons";
import type { Form } from "./plan";
import { MeasureTwice } from "./Sheet";
import { BetterLengths, Questions, SolvedLengths } from "./Solved";

type Request = Schemas["PlanRequest"];

/** What is computed of a plan: its lengths by the solver, what to expect, its figures, and why. */
export function Answers({
  of: p,
  ready,
  computed,
  lengths,
  onUse,
  form,
  outing,
  limit,
  unit,
}: {
  of: Schemas["Plan"];
  ready?: { request: Request; bare: Request };
  computed: Computing<Schemas["ForecastAnswer"]>;
  lengths: Computing<Schemas["Refined"]>;
  onUse: (solved: Form["solved"]) => void;
  form: UseFormReturn<Form>;
  outing: string;
  limit: number;
  unit: string;
}) {
  const family = useReference().data?.families.find((f) => f.id === form.watch("family"));
  const imperial = unit === "ft";
  const forecast = computed.current && computed.result?.forecast;
  const shown = forecast ? withoutEstimates(p) : { figures: p.figures ?? [], tables: p.tables ?? [] };
  return (
    <div className="stack then">
      <BetterLengths of={lengths} onTake={(field, text) => form.setValue(slot(field) as Path<Form>, text, { shouldDirty: true })} />
      {ready && (
        <div className="noprint">
          <Fold name="What to expect" says={computed.result?.forecast?.sentence}>
            <Forecast of={computed} limit={limit} />
          </Fold>
        </div>
      )}
      <Figures of={shown.figures} />
      <Tables of={shown.tables} />
      <Strips of={p.strips ?? []} />
      <Why of={p}>
        <SolvedLengths of={lengths} imperial={imperial} used={(ready?.request.solved ?? []).length > 0} onUse={onUse} />
        <Lessons outing={outing} family={form.watch("family")} among />
      </Why>
      {ready && family && <Questions plan={ready.bare} outing={outing} family={family} unit={unit} />}
      {p.measure && (
        <details className="fold noprint" open={p.measure.tone !== "none" || undefined}>
          <summary>Double-check the length</summary>
          <MeasureTwice measure={p.measure} form={form} unit={unit} imperial={imperial} />
        </details>
      )}
    </div>
  );
}

/** Where the lengths come from: the factor, the solver's word on it, and the ways in which people differ. */
function Why({ of: p, children }: { of: Schemas["Plan"]; children: ReactNode }) {
  return (
    <details className="fold noprint">
      <summary>Why these lengths</summary>
      <p>
        Factor <span className="mono">{p.factor.value.toFixed(3)}</span> of free space, likely{" "}
        <span className="mono">{p.factor.lo.toFixed(3)}</span> to <span className="mono">{p.factor.hi.toFixed(3)}</span>:{" "}
        {(p.factor.why ?? []).join("; ")}.
      </p>
      {children}
      <Schools of={p.schools ?? []} />
    </details>
  );
}
