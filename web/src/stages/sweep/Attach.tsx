import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useCallback, useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { many, metres, mhz, toHang } from "../../draw/numbers";
import { useDraft, useLater } from "../../parts/draft";
import { Fold } from "../../parts/Fold";
import { Picks } from "../../parts/fields";
import { FileButton, PreviewNotes, useImport } from "../../parts/Import";
import { Progress } from "../../parts/Progress";
import { say, setVersion } from "../../parts/Undo";
import { useAnalyser, useKeepSweep, type Where } from "./useAttach";
import "./sweep.css";

type End = { id: string; label: string };

/** A measurement on its way in: from a file, typed, or by an analyser; looked at before it is kept. */
export function Attach({
  revision,
  band,
  imperial,
  onDone,
}: {
  revision: Schemas["Revision"];
  band: string;
  imperial: boolean;
  onDone: () => void;
}) {
  const file = useImport(undefined, revision.id);
  // What is typed is read off the radio's own meter; a file or an analyser may have been anywhere.
  const [byMeter, setByMeter] = useState(false);
  const [swept, setSwept] = useDraft<Where>(`where:${revision.id}`, "feed");
  const [metered, setMetered] = useDraft<Where>(`metered:${revision.id}`, "radio");
  const [where, setWhere] = byMeter ? [metered, setMetered] : [swept, setSwept];
  const [typed, setTyped, forgetTyped] = useDraft(`readings:${revision.id}`, "");
  const [typing, setTyping] = useState(typed !== "");
  const [pressed, setPressed] = useState(false);
  // Where an analyser of ours measured is known; where a file was measured is asked.
  const [byDevice, setByDevice] = useState(false);
  const analyser = useAnalyser(revision, band, swept, (got) => {
    setByMeter(false);
    setByDevice(true);
    void file.take(got);
  });
  const { keep, told } = useKeepSweep(revision.id, where);
  const { read } = file;
  const look = useCallback(
    (text: string) => {
      setByMeter(true);
      setByDevice(false);
      void read(text);
    },
    [read],
  );
  const p = file.preview;
  const coax = revision.built.coax;
  const ends: End[] = [
    { id: "feed", label: "at the feed point" },
    { id: "radio", label: coax?.type ? `at the radio, through ${toHang(coax.length ?? {}, imperial)} of ${coax.type}` : "at the radio" },
  ];
  const keepIt = async () => {
    if (!file.input) return;
    // Before the write, not behind it: what is picked meanwhile stays picked.
    onDone();
    const kept = await keep(file.input, `Sweep ${p?.name}`);
    if (!kept) return;
    file.close();
    forgetTyped();
    setTyping(false);
    // What it means stands in the headline.
    scrollTo({ top: 0 });
    say(kept.done ? "The sweep is saved." : "No connection: the sweep is saved on this device.", () => setVersion("sweep", kept.id, 0, 1));
  };
  const trouble = file.trouble || told || analyser.told;
  return (
    <div className="stack">
      <div className="row">
        <FileButton
          label="Attach a sweep"
          name="sweep-file"
          accept=".s1p,.s2p,.csv,.txt,.ts,text/*"
          onFile={(f) => {
            setByMeter(false);
            setByDevice(false);
            void file.open(f);
          }}
        />
        <Button
          variant="outlined"
          onClick={() => {
            setTyping((v) => !v);
            setPressed(true);
          }}
          aria-expanded={typing}
        >
          Type readings
        </Button>
        {file.busy && <span role="status">Reading…</span>}
      </div>
      {typing && <Typed text={typed} focus={pressed} onText={setTyped} onLook={look} />}
      {trouble && (
        <div className="note error" role="alert">
          {trouble}
        </div>
      )}
      {p && (
        <Preview
          of={p}
          choose={(c, v) => void file.choose(c, v)}
          measured={byDevice ? ends.find((x) => x.id === where)?.label : undefined}
          ends={ends}
          where={where}
          onWhere={setWhere}
          keepAs={`revision ${revision.seq}`}
          onKeep={() => void keepIt()}
          onClose={file.close}
        />
      )}
      <Fold name="An analyser" says={analyser.network === "simulated" ? "simulated" : `at ${analyser.address}`}>
        <Analyser of={analyser} band={band} ends={ends} where={swept} onWhere={p ? undefined : setSwept} onSweep={file.close} />
      </Fold>
      {analyser.done && <p role="status">They are saved to revision {revision.seq}.</p>}
    </div>
  );
}

/** The analyser, simulated or on the network, and what it can be asked; where it measures is asked while no sweep is looked at. */
function Analyser({
  of: a,
  band,
  ends,
  where,
  onWhere,
  onSweep,
}: {
  of: ReturnType<typeof useAnalyser>;
  band: string;
  ends: End[];
  where: Where;
  onWhere?: (w: Where) => void;
  onSweep: () => void;
}) {
  const ask = (left: number, wide = false) => {
    onSweep();
    a.sweep(left, wide);
  };
  const busy = a.asking !== undefined;
  return (
    <fieldset className="device">
      <legend>An analyser</legend>
      {a.address && (
        <select className="pick" aria-label="Which analyser" value={a.network} onChange={(e) => a.setDevice(e.target.value)}>
          <option value="simulated">simulated</option>
          <option value="network">at {a.address}</option>
        </select>
      )}
      {onWhere && <Picks legend="Measures" name="measures" value={where} onChange={(x) => onWhere(x as Where)} options={ends} />}
      <div className="row">
        <Button variant="outlined" disabled={busy} onClick={() => ask(1)}>
          Sweep {metres(band)}
        </Button>
        <button type="button" className="linkbtn" disabled={busy} onClick={() => ask(5)}>
          Repeat 5 times (wind)
        </button>
        <button type="button" className="linkbtn" disabled={busy} onClick={() => ask(1, true)}>
          All of 1 to 60 MHz
        </button>
      </div>
      {a.network === "simulated" ? (
        <p className="small soft">
          The simulated analyser measures this set-up through the wire solver, every wire a little off; what it writes is marked as
          simulated. Five in a row show how far the wind moves the dip.{" "}
          {!a.address && (
            <>
              For an instrument on the network, write its address in <Link to="/settings">Settings</Link>.
            </>
          )}
        </p>
      ) : (
        <p className="small soft">Calibrate it at the point you measure, and choose that point here.</p>
      )}
      <Progress of={a.measured} what={a.asking?.keep ? `sweeping, ${a.asking.left} to go` : "sweeping"} />
    </fieldset>
  );
}

/** Readings from the radio's own meter, one a line; looked at by themselves once every line has both of its numbers. */
function Typed({
  text,
  focus,
  onText,
  onLook,
}: {
  text: string;
  focus: boolean;
  onText: (v: string) => void;
  onLook: (v: string) => void;
}) {
  const later = useLater(text, 700);
  const looked = useRef("");
  useEffect(() => {
    const lines = later.split("\n").filter((l) => l.trim() !== "");
    if (later === looked.current || lines.length === 0 || !lines.every((l) => /\S[\s;,]+\S/.test(l.trim()))) return;
    looked.current = later;
    onLook(later);
  }, [later, onLook]);
  return (
    <TextField
      label="Frequency in MHz and SWR, one reading a line"
      name="readings"
      multiline
      minRows={4}
      autoFocus={focus}
      value={text}
      onChange={(e) => onText(e.target.value)}
      placeholder={"7.00 1.9\n7.10 1.3\n7.20 2.1"}
      helperText="MHz and SWR, or MHz, R and X; several bands in one list; checked as you type"
      slotProps={{ htmlInput: { className: "mono", inputMode: "text" } }}
    />
  );
}

const kinds = {
  complex: "Magnitude and phase: R and X are known.",
  unsigned: "R and X without its sign.",
  magnitude: "SWR only: R and X are not known.",
};

/** What was read, before anything is stored. */
function Preview({
  of: p,
  choose,
  measured,
  ends,
  where,
  onWhere,
  keepAs,
  onKeep,
  onClose,
}: {
  of: Schemas["Preview"];
  choose: (column: string, value: string) => void;
  measured?: string;
  ends: End[];
  where: Where;
  onWhere: (w: Where) => void;
  keepAs: string;
  onKeep: () => void;
  onClose: () => void;
}) {
  const notNow = (
    <Button variant="outlined" onClick={onClose}>
      Discard
    </Button>
  );
  if (!p.sweep && p.counts.points === 0)
    return (
      <div className="note error" role="alert">
        This is a log with {many(p.counts.records, "contact")}, not a sweep. Import it in Work.
      </div>
    );
  return (
    <section className="stack ruled" aria-label="Sweep preview">
      {p.sweep ? (
        <>
          <h2>
            {p.sweep.f.length === 1
              ? `1 point, at ${mhz(p.sweep.f[0] ?? 0)} MHz`
              : `${p.sweep.f.length} points from ${mhz(p.sweep.f[0] ?? 0)} to ${mhz(p.sweep.f.at(-1) ?? 0)} MHz`}
          </h2>
          <p>
            {kinds[p.sweep.kind as keyof typeof kinds]} {p.kind}, {p.encoding}. Nothing is stored yet.
          </p>
        </>
      ) : (
        <h2>These frequencies cannot be</h2>
      )}
      {(p.echo ?? []).length > 0 && (
        <ul className="mono small echoed" aria-label="Read as">
          {p.echo?.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      )}
      <PreviewNotes of={p} choose={choose} />
      {p.sweep && !measured && <Picks legend="Measured" name="where" value={where} onChange={(x) => onWhere(x as Where)} options={ends} />}
      {p.sweep && measured && <p>Measured {measured}.</p>}
      <div className="row">
        {p.sweep && (
          <Button variant="contained" onClick={onKeep}>
            Save to {keepAs}
          </Button>
        )}
        {notNow}
      </div>
    </section>
  );
}
