import Button from "@mui/material/Button";
import type { UseFormReturn } from "react-hook-form";
import { type Schemas, useReference } from "../../api/client";
import { Layout } from "../../draw/Layout";
import { slot } from "../../parts/AskFields";
import { Below } from "../../parts/Below";
import { keepDraft } from "../../parts/draft";
import { Field } from "../../parts/fields";
import { Opening } from "../../parts/Opening";
import { Progress } from "../../parts/Progress";
import { remove } from "../../parts/Undo";
import { Answers } from "./Answers";
import { Beside } from "./Beside";
import { Families, Questions } from "./Choices";
import { Lessons } from "./Lessons";
import type { Form } from "./plan";
import { CutList } from "./Sheet";
import { Tags } from "./Tags";
import { useForecast, useKeep, useLengths, usePicked, usePlan, usePlanForm, useSolver } from "./useCut";
import "./cut.css";

/** Cut: an antenna planned to its lengths. */
export default function Cut({ outing }: { outing: Schemas["OutingDetail"] }) {
  const id = outing.outing.id;
  const { at, pick } = usePicked(outing);
  const of = usePlanForm(id, at);
  const { me, reference, chosen, form, imperial, unit } = of;
  const solver = useSolver(form, chosen.data);
  const planned = usePlan(form, at, unit, solver.taken, outing.outing.ground, chosen.data);
  const { plan, asked, fields, ready } = planned;
  const lengths = useLengths(id, planned, solver);
  const computed = useForecast(id, at, ready);
  const { save, told } = useKeep(outing.outing, at, of, fields, solver.taken);
  // Until the solver has answered, these are the closed form's lengths.
  const solved = (ready?.request.solved?.length ?? 0) > 0;
  const none = lengths.trouble !== "" || (lengths.current && lengths.result?.solved.length === 0);
  const estimate = plan !== undefined && !planned.wrong && !planned.down && !solved && !none && !solver.stays(form.watch());
  if (!reference.data || !me.data) return <Opening of={[reference, me]} />;
  const tags = <Tags outing={outing} at={at} onPick={pick} />;
  if (at === "beside")
    return (
      <>
        {tags}
        <Beside outing={id} imperial={imperial} onPick={pick} />
      </>
    );
  return (
    <form
      className="stack cutting"
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <Sentence
        of={planned}
        lengths={lengths}
        estimate={estimate}
        computed={computed.current ? computed.result?.forecast?.sentence : undefined}
      />
      {tags}
      <Below>
        <div className="wide">
          <div className="stack">
            {plan && <CutFor of={plan} form={of.form.watch()} outing={outing.outing} />}
            {plan && <Layout planned={plan.drawing} imperial={imperial} onMove={(field, m) => drag(form, field, m)} />}
            {plan && <CutList plan={plan} imperial={imperial} />}
            <Lessons outing={id} family={form.watch("family")} />
          </div>
          <div className="stack noprint choices">
            <Families form={form} onPick={() => keepDraft(of.draft, form.getValues())} />
            <Questions form={form} fields={asked} faults={planned.faults} unit={unit} />
            <div className="ruled stack">
              <Field
                form={form}
                name="name"
                label="Antenna name"
                help={plan?.called ? `${plan.called} if left empty` : "a short name, like Heron"}
                autoComplete="off"
              />
            </div>
            <div className="row keepbar">
              <Button type="submit" variant="contained" sx={{ minWidth: at === "new" ? "min(100%, 340px)" : 160 }}>
                {`Save ${estimate ? "estimate" : "plan"}${at === "new" ? " and continue to Raise" : ""}`}
              </Button>
              <button type="button" className="linkbtn" onClick={() => print()}>
                {estimate ? "Print estimate" : "Print cut list"}
              </button>
              {at !== "new" && chosen.data && <Remove of={chosen.data.deployment} onDone={() => pick("new")} />}
            </div>
            <span role="status">{told}</span>
          </div>
          {plan && (
            <Answers
              of={plan}
              ready={ready}
              computed={computed}
              lengths={lengths}
              onUse={solver.choose}
              form={form}
              outing={id}
              limit={me.data.good_swr}
              unit={unit}
            />
          )}
        </div>
      </Below>
    </form>
  );
}

/** A height that was moved in the drawing, as if it had been typed. */
const drag = (form: UseFormReturn<Form>, field: string, m: number) =>
  form.setValue(slot(field) as `t.${string}`, `${m.toFixed(2)} m`, { shouldDirty: true, shouldTouch: true });

/** The plan in a sentence, and what is to be minded. */
function Sentence({
  of: { plan: p, wrong, waits, down, faults },
  lengths,
  estimate,
  computed,
}: {
  of: ReturnType<typeof usePlan>;
  lengths: ReturnType<typeof useLengths>;
  estimate: boolean;
  computed?: string;
}) {
  const trouble = waits
    ? down
      ? "No connection: a new plan is computed when it is back."
      : "Computing the plan."
    : "The plan has errors: check the marked fields.";
  return (
    <div className="say">
      <h1 className={estimate ? "estimate" : undefined}>{p && !wrong ? p.sentence : trouble}</h1>
      <p className="expects">
        {p && (
          <>
            {p.wire_used_m > 0 && (
              <>
                It takes <span className="mono nobreak">{p.wire_says}</span> of wire.{" "}
              </>
            )}
            {p.likely && (
              <>
                Expected resonant length: <span className="mono nobreak">{p.likely}</span>. Cut long, then fold back.
              </>
            )}{" "}
            {computed && !estimate ? `Computed: ${computed}` : `${estimate ? "First estimate. " : ""}Expect ${p.expect}.`}
          </>
        )}
      </p>
      <div className="solving noprint">
        <Progress of={lengths} what="checking this length against the ground and the height" />
      </div>
      {p && down && <p className="note quiet small">No connection: this is the plan as it was saved.</p>}
      {p?.provisional && <p className="note small">{p.provisional}</p>}
      {faults
        .filter((f) => f.severity === "caution")
        .map((c) => (
          <p key={c.text} className="note error small">
            {c.text}
          </p>
        ))}
    </div>
  );
}

/** On paper: what the cut list is of, for whoever stands at the tape with it. */
function CutFor({ of: p, form: v, outing: o }: { of: Schemas["Plan"]; form: Form; outing: Schemas["Outing"] }) {
  const reference = useReference().data;
  const kind = reference?.families.find((f) => f.id === v.family);
  const hung = kind?.variants.find((x) => x.id === v.variant)?.name;
  const seen = p.fields?.find((f) => f.kind === "frequencies")?.seen;
  return (
    <p className="onpaper">
      <b>{v.name || p.called}</b>: {kind?.name.toLowerCase()}
      {hung && `, ${hung}`}, for {seen}. {o.name}, {o.date}
      {o.place && `, ${o.place}`}. Wire: {p.wire?.name ?? v.wire}.
    </p>
  );
}

function Remove({ of: d, onDone }: { of: Schemas["Deployment"]; onDone: () => void }) {
  return (
    <button
      type="button"
      className="linkbtn"
      onClick={async () => {
        await remove("deployment", d.id, d.version, `${d.name} is deleted.`);
        onDone();
      }}
    >
      Delete this plan
    </button>
  );
}
