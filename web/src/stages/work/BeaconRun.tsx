import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import { type Schemas, useReference } from "../../api/client";
import { metres } from "../../draw/numbers";
import { clock } from "./clock";
import { type RunForm, useRun, useSeconds } from "./useRun";

type Run = ReturnType<typeof useRun>;

/** Antennas in turn by the clock, heard by the same receivers, or hearing the same stations, under the same sky. */
export function BeaconRun({ outing }: { outing: Schemas["OutingDetail"] }) {
  const run = useRun(outing);
  const up = outing.tags.filter((t) => t.state !== "planned");
  const [anew, setAnew] = useState(false);
  if (!run.ready) return null;
  if (up.length < 2 && !run.state)
    return (
      <section className="stack" aria-label="Beacon run">
        <p className="soft">
          Compare two antennas that are up by sending, or listening, with them in turn.{" "}
          <Link to={`/o/${outing.outing.id}/raise`}>Raise another</Link>
        </p>
      </section>
    );
  return (
    <section className="stack" aria-label="Beacon run">
      {run.state && !anew ? (
        <>
          <Standing run={run} state={run.state} />
          <div>
            <Button variant="outlined" onClick={() => setAnew(true)}>
              Another run
            </Button>
          </div>
        </>
      ) : (
        <Plan run={run} up={up} onBegin={() => void run.begin().then(() => setAnew(false))} />
      )}
      {run.told && (
        <p role="status" className={run.fields.length > 0 ? "note error small" : "small"}>
          {run.told}
        </p>
      )}
    </section>
  );
}

const turned = (list: string[], x: string) => (list.includes(x) ? list.filter((y) => y !== x) : [...list, x]);

/** What the next run is to be. */
function Plan({ run, up, onBegin }: { run: Run; up: Schemas["Tag"][]; onBegin: () => void }) {
  const reference = useReference();
  const { form, set } = run;
  const one = (id: keyof RunForm & ("minutes" | "guard" | "power"), path: string, label: string, help: string) => {
    const wrong = run.fields.find((f) => f.path === path)?.detail;
    return (
      <TextField
        label={label}
        inputMode="decimal"
        value={form[id]}
        error={wrong !== undefined}
        helperText={wrong ?? help}
        onChange={(e) => set({ [id]: e.target.value })}
      />
    );
  };
  return (
    <>
      <fieldset className="choice">
        <legend>Measure</legend>
        {[false, true].map((listen) => (
          <label key={String(listen)}>
            <input type="radio" name="listen" checked={(form.listen ?? false) === listen} onChange={() => set({ listen })} />
            {listen ? "reception: listen" : "transmission: send"}
          </label>
        ))}
      </fieldset>
      <fieldset className="choice">
        <legend>Antennas</legend>
        {up.map((t) => (
          <label key={t.id}>
            <input type="checkbox" checked={form.aerials.includes(t.id)} onChange={() => set({ aerials: turned(form.aerials, t.id) })} />
            {t.letter}, {t.name}
          </label>
        ))}
      </fieldset>
      <fieldset className="choice">
        <legend>Bands</legend>
        {reference.data?.bands.map((b) => (
          <label key={b.name}>
            <input type="checkbox" checked={form.bands.includes(b.name)} onChange={() => set({ bands: turned(form.bands, b.name) })} />
            {metres(b.name)}
          </label>
        ))}
      </fieldset>
      <div className="fields">
        {one("minutes", "minutes", "Duration, min", "from now")}
        <TextField
          select
          label={form.listen ? "Mode listened for" : "Mode sent"}
          value={form.mode}
          helperText="sets the length of a slot"
          onChange={(e) => set({ mode: e.target.value })}
          slotProps={{ select: { native: true } }}
        >
          <option>WSPR</option>
          <option>FST4W</option>
          <option>CW</option>
        </TextField>
        {!form.listen && one("power", "power_w", "Power, W", "the same for all")}
        {one("guard", "guard_s", "Switching time, s", "kept free before each slot")}
      </div>
      {form.listen && (
        <p className="small soft">
          Leave your decoder on through all slots, and switch the antenna by the clock. The file of what it heard is imported above like any
          log; which stations sent, and when, need not be known.
        </p>
      )}
      <div>
        <Button variant="contained" onClick={onBegin}>
          Start beacon run
        </Button>
      </div>
    </>
  );
}

const left = (ms: number) => `${Math.floor(ms / 60000)}:${String(Math.floor((ms % 60000) / 1000)).padStart(2, "0")}`;

/** A short tone, where the device makes one. */
function beep() {
  try {
    const audio = new AudioContext();
    const tone = audio.createOscillator();
    tone.frequency.value = 660;
    tone.connect(audio.destination);
    tone.start();
    tone.stop(audio.currentTime + 0.25);
  } catch {
    // Without sound the clock is read.
  }
}

/** What to send with now, and next, to be read from a distance. */
function RunClock({ state }: { state: Schemas["RunState"] }) {
  const now = useSeconds();
  const [sounds, setSounds] = useState(false);
  const lasts = state.slot_s * 1000;
  const i = state.run.slots.findIndex((s) => Date.parse(s.at) + lasts > now);
  const slot = state.run.slots[i];
  const begins = slot ? Date.parse(slot.at) : 0;
  const sending = slot !== undefined && begins <= now;
  const next = sending ? state.run.slots[i + 1] : slot;
  const key = `${i}${sending}`;
  // biome-ignore lint/correctness/useExhaustiveDependencies: it sounds when what is to be done changes
  useEffect(() => {
    if (sounds) beep();
  }, [key]);
  const last = state.run.slots.at(-1);
  if (!slot) return <p className="soft">Over since {last ? clock(last.at, false) : ""} UTC.</p>;
  return (
    <div className="runclock">
      <p className="runnow" aria-live="polite">
        {sending ? (
          <>
            {state.run.listen ? "Listening" : "Sending"} with <b className="mono">{slot.letter}</b> on <b>{metres(slot.band)}</b>
          </>
        ) : (
          <>
            Switch to <b className="mono">{slot.letter}</b> on <b>{metres(slot.band)}</b>
          </>
        )}
      </p>
      <p className="runleft mono" role="timer" aria-label="Time left">
        {left(sending ? begins + lasts - now : begins - now)}
      </p>
      {sending && next && (
        <p className="soft">
          then <b className="mono">{next.letter}</b> on {metres(next.band)} at <span className="mono">{clock(next.at, true)}</span>
        </p>
      )}
      <label className="tall small">
        <input type="checkbox" checked={sounds} onChange={(e) => setSounds(e.target.checked)} /> beep when it changes
      </label>
    </div>
  );
}

/** A run as it stands: the clock, the difference so far, and its slots. */
function Standing({ run, state }: { run: Run; state: Schemas["RunState"] }) {
  return (
    <>
      <p>{state.says}</p>
      <RunClock state={state} />
      <ul className="plain stack tight">
        {state.differences.map((d) => (
          <li key={`${d.band ?? "all"}${d.b}`} className="difference">
            <b>{d.says}</b>
            <span className="small soft">
              {" "}
              {d.slots_a} slots of {d.a}, {d.slots_b} of {d.b};{" "}
              {state.run.listen
                ? `${d.only_a} heard with ${d.a} only, ${d.only_b} with ${d.b} only.`
                : `${d.only_a} heard only ${d.a}, ${d.only_b} only ${d.b}.`}
            </span>
          </li>
        ))}
      </ul>
      <div className="row">
        <Button variant="outlined" onClick={() => void run.hear()}>
          Ask the simulated network
        </Button>
        <span className="small soft">{state.reports} reports of this run. Real ones come in by a file.</span>
      </div>
      <details className="fold">
        <summary>Correct slots ({state.run.slots.length})</summary>
        <div className="scroll low" tabIndex={0} role="region" aria-label="Slots of the run">
          <table className="small">
            <tbody>
              {state.run.slots.map((s, i) => (
                <tr key={s.at} className={s.sent === "-" ? "dup" : ""}>
                  <td className="mono">{clock(s.at, true)}</td>
                  <td className="mono">{metres(s.band)}</td>
                  <td>
                    <select
                      className="pick"
                      aria-label={`${state.run.listen ? "Listened" : "Sent"} at ${clock(s.at, true)}`}
                      value={s.sent || s.letter}
                      onChange={(e) => void run.correct(i, e.target.value)}
                    >
                      {state.run.aerials.map((a) => (
                        <option key={a.letter} value={a.letter}>
                          {a.letter}, {a.name}
                          {a.letter === s.letter ? "" : " by mistake"}
                        </option>
                      ))}
                      <option value="-">{state.run.listen ? "it was not listened" : "nothing was sent"}</option>
                    </select>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </details>
    </>
  );
}
