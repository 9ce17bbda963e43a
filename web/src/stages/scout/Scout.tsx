import type { Schemas } from "../../api/client";
import { Below } from "../../parts/Below";
import { Fold } from "../../parts/Fold";
import { Progress } from "../../parts/Progress";
import { BandStrip } from "./BandStrip";
import { DayStrip, utc } from "./DayStrip";
import { DrawingBar, useDrawing } from "./Drawing";
import { Hazards } from "./Hazards";
import { OutingForm } from "./OutingForm";
import { Packing } from "./Packing";
import { PurposeForm } from "./PurposeForm";
import { Ranking, Weights } from "./Ranking";
import "./scout.css";
import { SiteForm } from "./SiteForm";
import { SitePlan } from "./SitePlan";
import { SiteSide } from "./SiteSide";
import { type Scouting, useScout } from "./useScout";

function daylight({ sun, outing }: Schemas["OutingDetail"]) {
  const line = sun?.up
    ? "The sun does not set."
    : sun?.down
      ? "The sun does not rise."
      : sun?.set
        ? `Daylight until ${utc(sun.set)} UTC.`
        : "No position yet, so no sunset time.";
  return `${line} ${outing.until ? `The gate is at ${outing.until}.` : ""}`;
}

/** What fits here, when, with what is in the bag, and is it safe. */
function Judged({ outing, scout: s }: { outing: Schemas["OutingDetail"]; scout: Scouting }) {
  const a = s.answer.result;
  const chosen = a?.candidates[s.at] ?? a?.candidates[0];
  const drawing = useDrawing(s.shelf?.kinds ?? [], s.add);
  return (
    <>
      <div className="wide">
        <div className="stack">
          <SitePlan map={s.read?.map} chosen={chosen} move={s.move} drawing={drawing} foot={s.v.foot} putFoot={(foot) => s.set({ foot })} />
          {s.v.foot && (
            <p className="small">
              The pole stands where you put it.{" "}
              <button type="button" className="linkbtn" onClick={() => s.set({ foot: undefined })}>
                Place it automatically
              </button>
            </p>
          )}
          <DrawingBar of={drawing} />
          <Fold name="From the side" says="heights along it">
            <SiteSide map={s.read?.map} chosen={chosen} />
          </Fold>
          <Fold name="Priorities" says="signal, minutes, weight">
            {s.weights && <Weights weights={s.weights} set={s.setWeights} />}
          </Fold>
        </div>
        <Ranking scout={s} />
      </div>
      <Fold name="Band conditions" says={a?.day.says[0] ?? "bands, sun, packing"} head>
        {a && <BandStrip day={a.day} />}
        {outing.outing.purpose && (
          <a className="linkbtn" href={`/api/outings/${outing.outing.id}/day.ics`} download={`${outing.outing.name}.ics`}>
            Save the day as a calendar file
          </a>
        )}
      </Fold>
      <div className="wide turned">
        <div className="stack">
          <Fold name="Site" says={s.v.lines.split("\n")[0]} head>
            <SiteForm scout={s} />
          </Fold>
        </div>
        <div className="stack">
          <Fold name="Goal" says={s.v.bands} head>
            <PurposeForm scout={s} />
          </Fold>
        </div>
      </div>
      <div className="wide">
        <div className="stack">
          <Fold name="Hazards" says={a?.hazards.find((h) => h.stops)?.title ?? ""} head>
            {a && <Hazards of={a.hazards} />}
          </Fold>
        </div>
        <div className="stack">
          <Fold name="Packing list" head>
            {a && <Packing outing={outing.outing} groups={a.packing} kg={a.packed_kg} />}
          </Fold>
        </div>
      </div>
    </>
  );
}

export default function Scout({ outing }: { outing: Schemas["OutingDetail"] }) {
  const scout = useScout(outing);
  return (
    <>
      <div className="say">
        <h1 className="steady">{scout.answer.result?.sentence ?? daylight(outing)}</h1>
        <p>
          {scout.answer.result && daylight(outing)} Look up before you choose a spot: no power line inside the circle in which a pole or
          wire may fall. Where the land's owner or local rules say no, the answer is no.
        </p>
      </div>
      {outing.lat !== undefined && <DayStrip outing={outing} />}
      <Below>
        <div className="progressroom">
          <Progress of={scout.answer} what="placing antennas on the site" />
        </div>
        <Judged outing={outing} scout={scout} />
        <Fold name="Outing" says="name, day, place, ground, scheme" head>
          <OutingForm outing={outing} />
        </Fold>
      </Below>
    </>
  );
}
