import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { type Schemas, useMe, useReference } from "../../api/client";
import { many, metres, mhz } from "../../draw/numbers";
import { Below } from "../../parts/Below";
import { useDraft } from "../../parts/draft";
import { Facts } from "../../parts/Facts";
import { Fold } from "../../parts/Fold";
import { Picks } from "../../parts/fields";
import { Opening } from "../../parts/Opening";
import { Progress } from "../../parts/Progress";
import { Thread } from "../../parts/Thread";
import { NoAntenna, useAntenna } from "../../parts/useAntenna";
import { Foreseen, Word } from "./Advice";
import { Attach } from "./Attach";
import { Curve, curveOf, Foretold, Whole } from "./Curve";
import { Marks } from "./Marks";
import { Ribbon } from "./Ribbon";
import { Sweeps } from "./Sweeps";
import { useAccept, useSolver, useView } from "./useSweep";
import { Why } from "./Why";
import "./sweep.css";

/** Sweep: what the analyser says of an antenna, what it means, and what to change. */
export default function Sweep({ outing }: { outing: Schemas["OutingDetail"] }) {
  const me = useMe();
  const reference = useReference();
  const { tag, row } = useAntenna(outing);
  const of = useView(tag);
  const { detail, view, last } = of;
  const [look, setLook] = useDraft<string>(`look:${tag?.id}`, "curve");
  if (!tag) return <NoAntenna outing={outing} />;
  if (!detail.data || !view.data || !me.data) return <Opening of={[detail, view, me]} />;
  if (!last)
    return (
      <>
        <div className="say">
          <h1>{tag.name} is planned, not up yet.</h1>
          <p>
            A sweep belongs to what was put up. <Link to={`/o/${outing.outing.id}/raise`}>Record it in Raise</Link> first.
          </p>
        </div>
        {row}
      </>
    );
  const settings = reference.data?.families.find((f) => f.id === tag.family)?.trims === "settings";
  return (
    <>
      {(settings || look === "marks") && <Looks look={look} onLook={setLook} />}
      {look === "marks" ? (
        <div className="two">
          <Marks key={tag.id} deployment={tag.id} unit={me.data.imperial ? "ft" : "m"} name={tag.name} />
          <aside className="stack noprint">{row}</aside>
        </div>
      ) : (
        <Swept
          outing={outing}
          of={of}
          tag={tag}
          row={row}
          limit={me.data.good_swr}
          imperial={me.data.imperial}
          onMarks={settings ? undefined : () => setLook("marks")}
        />
      )}
    </>
  );
}

function Looks({ look, onLook }: { look: string; onLook: (v: string) => void }) {
  return (
    <div className="noprint">
      <Picks
        legend="Show"
        name="look"
        value={look}
        onChange={onLook}
        options={[
          { id: "curve", label: "the curve" },
          { id: "marks", label: "settings and marks" },
        ]}
      />
    </div>
  );
}

/** The curve of one antenna on one band, from the judgement down to the next sweep. */
function Swept({
  outing,
  of,
  tag,
  row,
  limit,
  imperial,
  onMarks,
}: {
  outing: Schemas["OutingDetail"];
  of: ReturnType<typeof useView>;
  tag: Schemas["Tag"];
  row: React.ReactNode;
  limit: number;
  imperial: boolean;
  onMarks?: () => void;
}) {
  const go = useNavigate();
  const reference = useReference();
  const [wanted, setWanted] = useState<number>();
  const solver = useSolver(outing.outing.id, of, wanted);
  const newest = () => of.setRevision("");
  const next = of.revisions.length + 1;
  const { accept, told } = useAccept(tag, next, newest);
  const { view, last, current, cause } = of;
  const w = view.data;
  if (!w || !last || !current) return null;
  const { computed, foretold, shown, trim } = solver;
  const curve = curveOf(shown, cause);
  const newestShown = current.id === last.id && w.before === undefined;
  const advised = trim && !trim.done && newestShown ? trim : undefined;
  // Where nothing was measured yet, measuring comes first.
  const attach = <Attach key={last.id} revision={last} band={w.band} imperial={imperial} onDone={newest} />;
  return (
    <>
      <Ribbon of={w} onPick={of.setBand} />
      <div className="two">
        <div className="stack">
          <Word of={of} solver={solver} name={tag.name} />
          <Below>
            {(w.reading || told) && (
              <div className="row first">
                {advised && (
                  <Button variant="contained" onClick={() => void accept(advised)}>
                    {advised.verb ?? "Changed"}: save as revision {next}
                  </Button>
                )}
                {!advised && w.next && (
                  <Button variant="contained" onClick={() => of.setBand(w.next ?? "")}>
                    On to {metres(w.next)}
                  </Button>
                )}
                <span role="status">{told}</span>
              </div>
            )}
            {!w.reading && attach}
            <Curve view={w} name={tag.name} computed={curve} />
            {advised && (
              <ul className="assumed" aria-label="Change">
                {advised.wires.map((x) => (
                  <li key={x.label}>{x.says}</li>
                ))}
              </ul>
            )}
            <div className="row">
              {w.reading && (
                <Button variant="outlined" onClick={() => go(`/o/${outing.outing.id}/raise`)}>
                  Something else changed
                </Button>
              )}
              {onMarks && (
                <button type="button" className="linkbtn" onClick={onMarks}>
                  Settings and marks
                </button>
              )}
            </div>
            {!w.reading && curve && foretold && <Foretold of={foretold} curve={curve} name={tag.name} limit={limit} />}
            <div className="late">
              {shown && (
                <p className="tide">
                  {shown.says} {computed.current && !cause && computed.result?.beside}
                </p>
              )}
              <Progress
                of={computed.running ? computed : solver.advice}
                what={computed.running ? "computing its curve" : "computing the advice"}
              />
            </div>
            <Facts of={w.facts} />
            {w.overview && <Whole of={w.overview} bands={reference.data?.bands ?? []} />}
            {w.reading && w.revision_id && <Why revision={w.revision_id} band={w.band} picked={cause?.id} onPick={of.setCause} />}
            {w.reading?.quality?.map((q) => (
              <p key={q} className="note">
                {q}
              </p>
            ))}
            {w.reading && attach}
            {w.trimmed && (
              <Fold name={w.before ? "What this sweep should show" : "What the next sweep should show"}>
                <Foreseen of={trim} />
                {w.reading && <Wish key={w.band} at={w.verdict?.target_hz} wanted={wanted} onWish={setWanted} />}
              </Fold>
            )}
          </Below>
        </div>
        <aside className="stack">
          {row}
          <Below>
            {" "}
            <Fold name={many(of.revisions.length, "revision")} says={`r${current.seq}: ${current.reason}`}>
              <Thread revisions={of.revisions} now={current.id} onPick={of.setRevision} />
              <Sweeps of={current} />
            </Fold>
          </Below>{" "}
        </aside>
      </div>
    </>
  );
}

/** Another frequency for the dip than the plan's, whatever is good enough already. */
function Wish({ at, wanted, onWish }: { at?: number; wanted?: number; onWish: (hz?: number) => void }) {
  const [text, setText] = useState("");
  const hz = Number(text.replace(",", ".")) * 1e6;
  const fits = hz >= 1e6 && hz <= 60e6;
  return (
    <form
      className="row"
      onSubmit={(e) => {
        e.preventDefault();
        if (fits) onWish(hz);
      }}
    >
      <TextField
        size="small"
        label="I want the dip at, MHz"
        name="wish"
        value={text}
        placeholder={at ? mhz(at) : ""}
        error={text !== "" && !fits}
        onChange={(e) => setText(e.target.value)}
        slotProps={{ htmlInput: { inputMode: "decimal", className: "mono" } }}
      />
      <Button type="submit" variant="outlined" disabled={!fits}>
        Compute
      </Button>
      {wanted && (
        <button type="button" className="linkbtn" onClick={() => onWish(undefined)}>
          Use the planned frequency
        </button>
      )}
    </form>
  );
}
