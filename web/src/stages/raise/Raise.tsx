import Button from "@mui/material/Button";
import { useNavigate } from "react-router";
import { type Schemas, useGet, useReference } from "../../api/client";
import { Keyline } from "../../draw/Keyline";
import { Layout } from "../../draw/Layout";
import { many } from "../../draw/numbers";
import { Below } from "../../parts/Below";
import { Fold } from "../../parts/Fold";
import { Forecast } from "../../parts/Forecast";
import { Field } from "../../parts/fields";
import { Opening } from "../../parts/Opening";
import { Progress } from "../../parts/Progress";
import { Thread } from "../../parts/Thread";
import { NoAntenna, useAntenna } from "../../parts/useAntenna";
import { SetUpClock } from "./Clock";
import { Dangers } from "./Dangers";
import { KeepRecipe } from "./KeepRecipe";
import { OnPaper } from "./OnPaper";
import { Parts } from "./Parts";
import { Photos } from "./Photos";
import { useAsBuilt, useChecked, useExpected, useKeep } from "./useRaise";
import "./raise.css";

/** Raise: what was put up, against what was planned, and whether it is safe. */
/** What was checked, with how far to keep off by the solved near fields once they are known, in place of the rule for the far one. */
function withNearFields(checked: Schemas["Checked"] | undefined, stay: string | undefined) {
  if (!checked || !stay) return checked;
  return { ...checked, cautions: checked.cautions.map((c) => (c.code === "exposure" ? { ...c, figure: stay } : c)) };
}

export default function Raise({ outing }: { outing: Schemas["OutingDetail"] }) {
  const go = useNavigate();
  const reference = useReference();
  const bag = useGet("/api/bag");
  const { tag, row } = useAntenna(outing);
  const asBuilt = useAsBuilt(tag, outing.outing.ground || undefined);
  const { me, detail, d, last, base, grown, onGrow, form, imperial, unit } = asBuilt;
  const { checked: asTyped, begun, faults, wrong, fields, ready } = useChecked(asBuilt, tag);
  const { computed, moved } = useExpected(outing.outing.id, asBuilt, ready);
  const checked = withNearFields(asTyped, computed.current ? computed.result?.forecast?.stay_says : undefined);
  const { save, told } = useKeep(outing.outing, asBuilt, fields, tag);
  if (!tag) return <NoAntenna outing={outing} />;
  if (!d || !base || !reference.data || !me.data || !bag.data) return <Opening of={[detail, reference, me, bag]} />;
  const next = d.revisions.length + 1;
  return (
    <>
      <div className="say">
        <h1 className="steady-phone">{checked?.headline ?? "Checking the dimensions."}</h1>
        <p className="tide foreseen">
          {computed.result?.forecast ? `Computed: ${computed.result.forecast.sentence}` : computed.running && "Computing the forecast."}
        </p>
        {d.recipe && <LaidOut of={d.recipe} moved={moved.result} />}
        <Progress of={moved} what="computing the effect of this place" />
      </div>
      {row}
      <Below>
        {begun && (
          <div className="raising">
            <form
              noValidate
              onSubmit={(e) => {
                e.preventDefault();
                void save();
              }}
            >
              <div className="stack shape">
                <OnPaper
                  outing={outing.outing}
                  name={tag.name}
                  family={base.family}
                  revision={last ? `r${last.seq}` : "planned"}
                  form={form.watch()}
                  fields={fields}
                  things={bag.data.things}
                  unit={unit}
                  of={checked}
                />
                <Layout built={checked?.drawing} planned={d.planned.drawing} imperial={imperial} faults={faults} />
                <Keyline lines={["as built", "as planned"]} />
                <div className="noprint">
                  {d.grown && !grown && (
                    <p className="note" role="status">
                      The plan has one more wire than this record, for {d.grown.mhz} MHz.{" "}
                      <button type="button" className="linkbtn" onClick={onGrow}>
                        Add it to this record
                      </button>
                    </p>
                  )}
                  <OtherGround
                    now={form.watch("ground")}
                    planned={d.deployment.plan.ground}
                    outing={outing.outing.ground}
                    raised={last !== undefined}
                    onTake={(g) => form.setValue("ground", g, { shouldDirty: true })}
                  />
                  <Parts form={form} base={base} things={bag.data.things} unit={unit} fields={fields} clock={d.clock_minutes} />
                </div>
              </div>
              <div className="stack noprint doing">
                <Dangers form={form} of={checked?.cautions ?? []} />
                <Field
                  form={form}
                  name="reason"
                  label="What changed, and why"
                  help={next === 1 ? "first build" : "like: raised the far end clear of the fence"}
                  autoComplete="off"
                />
                <div className="row">
                  <Button type="submit" variant="contained" disabled={wrong}>
                    Save as revision {next}
                  </Button>
                  <span role="status">{told}</span>
                  <button type="button" className="linkbtn" onClick={() => print()}>
                    Print this
                  </button>
                </div>
              </div>
            </form>
            <aside className="stack noprint" aria-label="Revisions and forecast">
              {checked && !wrong && <OnTheSpot of={checked.onsite} />}
              <details className="fold">
                <summary>What to expect</summary>
                <Forecast of={computed} limit={me.data.good_swr} />
              </details>
              <Fold head name="Set-up clock" says={d.clock_minutes > 0 ? `${d.clock_minutes} min in total` : "not started"}>
                <SetUpClock of={d} />
              </Fold>
              {d.revisions.length > 0 && (
                <Fold name={many(d.revisions.length, "revision")} says={last?.reason}>
                  <Thread revisions={d.revisions} now={last?.id} onPick={() => go(`/o/${outing.outing.id}/sweep`)} />
                  <KeepRecipe key={`${tag.id} ${d.revisions.length}`} revisions={d.revisions} name={tag.name} />
                </Fold>
              )}
              {d.revisions.length === 0 && <p className="soft">Saving makes this revision 1.</p>}
              <Fold head name="Photos" says={d.photos.length > 0 ? String(d.photos.length) : "none"}>
                <Photos of={d} />
              </Fold>
            </aside>
          </div>
        )}
      </Below>
    </>
  );
}

/** The recipe that it is laid out from, and what this place does to it. */
function LaidOut({ of: r, moved }: { of: NonNullable<Schemas["DeploymentDetail"]["recipe"]>; moved?: Schemas["Moved"] }) {
  return (
    <p>
      Laid out as <b>{r.name}</b>, {r.revision} at {r.place}, {r.date}.{" "}
      {moved && (
        <span className="tide">
          {moved.sentence} {moved.detail}
        </span>
      )}
    </p>
  );
}

/** That the ground is another than the antenna was planned or recorded for, with a press to take over the other one. */
function OtherGround({
  now,
  planned,
  outing,
  raised,
  onTake,
}: {
  now: string;
  planned?: string;
  outing?: string;
  raised: boolean;
  onTake: (ground: string) => void;
}) {
  const grounds = useReference().data?.grounds ?? [];
  const name = (id?: string) => grounds.find((g) => g.id === id)?.name.toLowerCase() ?? "";
  const other = [outing, planned].find((g) => g && g !== now && name(g));
  if (!other || !now) return null;
  return (
    <p className="note" role="status">
      {other === outing
        ? `The outing has ${name(outing)}; this antenna is ${raised ? "recorded" : "computed"} for ${name(now)}.`
        : `It was planned for ${name(planned)} and is raised over ${name(now)}: its lengths may need a change. See Cut.`}{" "}
      <button type="button" className="linkbtn" onClick={() => onTake(other)}>
        Use {name(other)}
      </button>
    </p>
  );
}

function OnTheSpot({ of }: { of: string[] }) {
  return (
    <details className="fold">
      <summary>What to measure on site</summary>
      <ul className="assumed">
        {of.map((x) => (
          <li key={x}>{x}</li>
        ))}
      </ul>
      <p className="small soft">
        These follow from the dimensions below. If you measure something else, change the dimension; the drawing shows whether all fit
        together.
      </p>
    </details>
  );
}
