import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { v7 as uuid } from "uuid";
import { type Schemas, Trouble, useMe } from "../../api/client";
import { send } from "../../api/outbox";
import { useDraft } from "../../parts/draft";
import { Progress } from "../../parts/Forecast";
import { Picks } from "../../parts/fields";
import { FileButton, PreviewNotes, useImport } from "../../parts/Import";
import { say, setVersion } from "../../parts/Undo";
import { useComputed } from "../../parts/useComputed";

const mhz = (hz: number) => (hz / 1e6).toFixed(3);

/** A measurement on its way in: from a file, typed, or by an analyser; looked at before it is kept. */
export function Attach({ revision, band, onDone }: { revision: Schemas["Revision"]; band: string; onDone: () => void }) {
  const file = useImport();
  const [where, setWhere] = useDraft(`where:${revision.id}`, "feed");
  const [typed, setTyped, forgetTyped] = useDraft(`readings:${revision.id}`, "");
  const [typing, setTyping] = useState(typed !== "");
  const fresh = useRef(uuid());
  const [told, setTold] = useState("");
  const [done, setDone] = useState(false);
  // Where an analyser of ours measured is known; where a file was measured is asked.
  const [byDevice, setByDevice] = useState(false);
  const p = file.preview;
  const me = useMe();
  const [device, setDevice] = useDraft("device", "simulated");
  const network = device === "network" && me.data?.analyser ? "network" : "simulated";
  // What the analyser is asked: one sweep that is looked at first, or several that are kept as they come.
  const [asking, setAsking] = useState<{ take: number; left: number; keep: boolean; wide: boolean }>();
  const tries = useRef(0);
  const measured = useComputed(
    "measure",
    asking && {
      kind: "measure",
      revision_id: revision.id,
      band,
      device: network,
      where: where as "feed",
      take: asking.take,
      wide: asking.wide,
    },
  );
  const handled = useRef("");
  const sweepNow = (left: number, wide = false) => {
    setTold("");
    setDone(false);
    file.close();
    setAsking({ take: (revision.sweeps.length + tries.current++) % 100, left, keep: left > 1, wide });
  };
  const got = asking && measured.current && !measured.running ? measured.result : undefined;
  // biome-ignore lint/correctness/useExhaustiveDependencies: each answer is handled once
  useEffect(() => {
    if (!got?.file || !asking || handled.current === got.id) return;
    handled.current = got.id;
    if (!asking.keep) {
      setAsking(undefined);
      setByDevice(true);
      void file.take(got.file);
      return;
    }
    void store(got.file).then((ok) => {
      const more = ok && asking.left > 1;
      setAsking(more ? { ...asking, take: (asking.take + 1) % 100, left: asking.left - 1 } : undefined);
      setDone(ok && !more);
    });
  }, [got]);
  useEffect(() => {
    if (measured.trouble) setAsking(undefined);
  }, [measured.trouble]);
  const store = async (answer: Schemas["FileInput"]) => {
    try {
      await send(
        "PUT",
        `/api/sweeps/${uuid()}`,
        { revision_id: revision.id, file: answer, where, taken_at: new Date().toISOString() },
        answer.name,
        0,
      );
      return true;
    } catch (e) {
      setTold(e instanceof Trouble ? e.whole : String(e));
      return false;
    }
  };
  const ends = [
    { id: "feed", label: "at the feed point" },
    {
      id: "radio",
      label: revision.built.coax?.type
        ? `at the radio, through ${revision.built.coax.length?.metric} of ${revision.built.coax.type}`
        : "at the radio",
    },
  ];
  const keep = async () => {
    // Before the write, not behind it: what is picked meanwhile stays picked.
    onDone();
    try {
      const id = fresh.current;
      const done = await send<Schemas["Stored"]>(
        "PUT",
        `/api/sweeps/${id}`,
        { revision_id: revision.id, file: file.input, where, taken_at: new Date().toISOString() },
        `Sweep ${p?.name}`,
        0,
      );
      fresh.current = uuid();
      file.close();
      forgetTyped();
      setTyping(false);
      say(done ? "The sweep is kept." : "The link is down: the sweep is kept here.", () => setVersion("sweep", id, 0, 1));
    } catch (e) {
      setTold(e instanceof Trouble ? e.whole : String(e));
    }
  };
  return (
    <div className="stack">
      <div className="row">
        <FileButton
          label="Attach a sweep"
          name="sweep-file"
          accept=".s1p,.s2p,.csv,.txt,.ts,text/*"
          onFile={(f) => {
            setByDevice(false);
            void file.open(f);
          }}
        />
        <Button variant="outlined" onClick={() => setTyping((v) => !v)} aria-expanded={typing}>
          Type readings
        </Button>
        {file.busy && <span role="status">Reading…</span>}
      </div>
      {!p && (
        <fieldset className="device">
          <legend>An analyser</legend>
          {me.data?.analyser && (
            <select className="pick" aria-label="Which analyser" value={network} onChange={(e) => setDevice(e.target.value)}>
              <option value="simulated">simulated, its truth hidden</option>
              <option value="network">at {me.data.analyser}</option>
            </select>
          )}
          <Picks legend="Measures" name="measures" value={where} onChange={setWhere} options={ends} />
          <div className="row">
            <Button variant="outlined" disabled={asking !== undefined} onClick={() => sweepNow(1)}>
              Sweep {band.replace("m", " m")}
            </Button>
            <button type="button" className="linkbtn" disabled={asking !== undefined} onClick={() => sweepNow(5)}>
              Five sweeps, for the wind
            </button>
            <button type="button" className="linkbtn" disabled={asking !== undefined} onClick={() => sweepNow(1, true)}>
              All of 1 to 60 MHz
            </button>
          </div>
          <p className="small soft">
            {network === "simulated" ? (
              <>
                The simulated analyser measures this set-up through the wire solver, every wire a little off; what it writes is marked as
                simulated.{" "}
                {!me.data?.analyser && (
                  <>
                    For an instrument on the network, write its address in <Link to="/settings">Settings</Link>.
                  </>
                )}
              </>
            ) : (
              "Calibrate it at the end that you measure, and say which end that is."
            )}
          </p>
          <Progress of={measured} what={asking?.keep ? `sweeping, ${asking.left} to go` : "sweeping"} />
        </fieldset>
      )}
      {typing && (
        <form
          className="stack"
          onSubmit={(e) => {
            e.preventDefault();
            setByDevice(false);
            void file.read(typed);
          }}
        >
          <TextField
            label="Frequency in MHz and SWR, one reading a line"
            name="readings"
            multiline
            minRows={4}
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
            placeholder={"7.00 1.9\n7.10 1.3\n7.20 2.1"}
            slotProps={{ htmlInput: { className: "mono" } }}
          />
          <div>
            <Button type="submit" variant="outlined">
              Look at these
            </Button>
          </div>
        </form>
      )}
      {done && <p role="status">They are kept with r{revision.seq}.</p>}
      {(file.trouble || told) && (
        <div className="note error" role="alert">
          {file.trouble || told}
        </div>
      )}
      {p && !p.sweep && p.counts.points > 0 && (
        <section className="stack ruled" aria-label="Preview of the sweep">
          <h2>These frequencies cannot be</h2>
          <PreviewNotes of={p} choose={(c, v) => void file.choose(c, v)} />
          <Button variant="outlined" onClick={file.close}>
            Not now
          </Button>
        </section>
      )}
      {p && !p.sweep && p.counts.points === 0 && (
        <div className="note error" role="alert">
          This is a log with {p.counts.records} contacts, not a sweep. Import it in Work.
        </div>
      )}
      {p?.sweep && (
        <section className="stack ruled" aria-label="Preview of the sweep">
          <h2>
            {p.sweep.f.length} points from {mhz(p.sweep.f[0] ?? 0)} to {mhz(p.sweep.f[p.sweep.f.length - 1] ?? 0)} MHz
          </h2>
          <p>
            {
              {
                complex: "Magnitude and phase: R and X are known.",
                unsigned: "R and X without its sign.",
                magnitude: "SWR only: R and X are not known.",
              }[p.sweep.kind]
            }{" "}
            {p.kind}, {p.encoding}. Nothing is stored yet.
          </p>
          <PreviewNotes of={p} choose={(c, v) => void file.choose(c, v)} />
          {byDevice ? (
            <p>Measured {ends.find((x) => x.id === where)?.label}.</p>
          ) : (
            <Picks legend="Measured" name="where" value={where} onChange={setWhere} options={ends} />
          )}
          <div className="row">
            <Button variant="contained" onClick={() => void keep()}>
              Keep it with r{revision.seq}
            </Button>
            <Button variant="outlined" onClick={file.close}>
              Not now
            </Button>
          </div>
        </section>
      )}
    </div>
  );
}
