import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { lazy, Suspense, useEffect, useRef, useState } from "react";
import { type Schemas, useMe } from "../../api/client";
import { mhz } from "../../draw/numbers";
import type { Stroke } from "../../draw/SwrPlot";
import { useDraft } from "../../parts/draft";
import { Picks, typedLength } from "../../parts/fields";
import { Opening } from "../../parts/Opening";
import { Progress } from "../../parts/Progress";
import { useComputed } from "../../parts/useComputed";
import "../../draw/plot.css";
import "../../parts/Thread.css";

const SwrPlot = lazy(() => import("../../draw/SwrPlot"));

type Game = Schemas["Game"];
type Played = Schemas["Played"];

const deal = (): Game => ({ seed: 1 + ((crypto.getRandomValues(new Uint32Array(1))[0] ?? 0) % 999999999), moves: [] });
const khz = (hz: number) => `${hz < 0 ? "−" : "+"}${Math.abs(hz / 1e3).toFixed(0)} kHz`;

/** The game that is played, and the move that is typed. */
function useGame() {
  const [game, setGame] = useDraft<Game | null>("game", null);
  const [typed, setTyped] = useDraft("game-move", "");
  const [told, setTold] = useState("");
  const played = useComputed("practice", "practice", game ? { game } : undefined);
  // The last answer stays on the screen while a move that cannot be made is taken back.
  const kept = useRef<Played>(undefined);
  if (played.result) kept.current = played.result;
  // A move that could not be made is taken back, with its text where it was typed.
  useEffect(() => {
    const last = game?.moves.at(-1);
    if (!played.trouble || played.trouble === "Stopped." || !game || !last) return;
    setTold(played.trouble);
    setTyped(last.length?.typed ?? "");
    setGame({ ...game, moves: game.moves.slice(0, -1), give_up: undefined });
  }, [played.trouble, game, setGame, setTyped]);
  const begin = () => {
    setTold("");
    setTyped("");
    kept.current = undefined;
    setGame(deal());
  };
  return { game, setGame, typed, setTyped, told, setTold, played, begin, now: game ? (played.result ?? kept.current) : undefined };
}

/** An unknown antenna and a segment: the fewest lowerings win, and every move is judged afterwards. */
export default function Practice() {
  const me = useMe();
  const of = useGame();
  const { game, now: p, played, begin } = of;
  if (!me.data) return <Opening of={[me]} />;
  if (!game || !p) return <Begin of={of} />;
  const unit = me.data.imperial ? "ft" : "m";
  return (
    <div className="two">
      <div className="stack">
        <div className="say">
          <h1 aria-live="polite">{p.sentence}</h1>
          <p>
            {p.title}. {p.done ? p.truth : p.about}
          </p>
        </div>
        <Curves of={p} limit={me.data.good_swr} />
        {(played.trouble === "" || played.trouble === "Stopped.") && (
          <Progress of={played} what={game.give_up ? "evaluating every move" : "raising and sweeping"} />
        )}
        {!p.done && <Move of={of} unit={unit} />}
        {p.judged.length > 0 && <Judged of={p.judged} />}
        {p.done && (
          <div>
            <Button variant="contained" onClick={begin}>
              Start another round
            </Button>
          </div>
        )}
      </div>
      <aside className="stack">
        <Raises of={p.raises} imperial={me.data.imperial} />
        <p className="small soft">Simulated. On a real pole: look for power lines, guy it, and never alone in wind or thunder.</p>
      </aside>
    </div>
  );
}

/** What the game is, before it begins. */
function Begin({ of: { game, played, told, begin } }: { of: ReturnType<typeof useGame> }) {
  return (
    <div className="stack say">
      <h1>{game ? "Raising it." : "Practise trimming, with no pole to lower."}</h1>
      <p>
        You get an unknown antenna: its wires are too long, the tape was not quite right, a fold counts for less than its length. Bring it
        into its segment in as few steps as you can. Afterwards each of your moves stands beside the advisor's. The wire solver gives the
        readings; all of it is simulated.
      </p>
      <Progress of={played} what="raising it" />
      {(!game || played.trouble) && (
        <div>
          <Button variant="contained" onClick={begin}>
            Start a round
          </Button>
        </div>
      )}
      {told && <p className="note error">{told}</p>}
    </div>
  );
}

/** The curve of every raise, the newest solid. */
function Curves({ of: p, limit }: { of: Played; limit: number }) {
  const now = p.raises.at(-1);
  const strokes: Stroke[] = p.raises.map((r, i) => ({
    id: `up${i}`,
    label: i + 1 === p.raises.length ? `measured, up ${i + 1}` : `earlier, up ${i + 1}`,
    swr: r.swr.map((v) => (v > 0 ? v : null)),
    kind: i + 1 === p.raises.length ? "measured" : "earlier",
  }));
  strokes.reverse();
  return (
    <div className="plot">
      <Suspense fallback={<p className="soft">Drawing…</p>}>
        {now && (
          <SwrPlot
            frequencies={p.frequencies}
            strokes={strokes}
            own={[p.own]}
            limit={limit}
            dip={{ at: now.min_hz, swr: now.min_swr, target: p.done ? undefined : p.target_hz }}
            title={`SWR: lowest ${now.min_swr.toFixed(2)} at ${mhz(now.min_hz)} MHz`}
          />
        )}
      </Suspense>
    </div>
  );
}

/** The next move: so much folded back, or added. */
function Move({ of: { game, setGame, typed, setTyped, told, setTold, played }, unit }: { of: ReturnType<typeof useGame>; unit: string }) {
  const [way, setWay] = useState("fold");
  const box = useRef<HTMLInputElement>(null);
  if (!game) return null;
  const move = () => {
    const length = typedLength(typed, unit);
    if (!length) {
      setTold("How much? Write it like 12 cm.");
      box.current?.focus();
      return;
    }
    setTold("");
    setTyped("");
    setGame({ ...game, moves: [...game.moves, { length, add: way === "add" }] });
  };
  return (
    <form
      className="stack"
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        move();
      }}
    >
      <Picks
        legend="On each leg, or on the wire"
        name="way"
        value={way}
        onChange={setWay}
        options={[
          { id: "fold", label: "fold back" },
          { id: "add", label: "add" },
        ]}
      />
      <div className="row">
        <TextField
          inputRef={box}
          label={`How much, ${unit}`}
          name="move"
          value={typed}
          placeholder={unit === "m" ? "12 cm" : '5"'}
          onChange={(e) => setTyped(e.target.value)}
          error={told !== ""}
          helperText={told || " "}
          autoComplete="off"
        />
        <Button type="submit" variant="contained" disabled={played.running}>
          Raise it and sweep
        </Button>
        <button type="button" className="linkbtn" disabled={played.running} onClick={() => setGame({ ...game, give_up: true })}>
          Give up and show the answer
        </button>
      </div>
    </form>
  );
}

/** Every move beside what the advisor would have done. */
function Judged({ of }: { of: Played["judged"] }) {
  return (
    <div className="scroll" tabIndex={0} role="region" aria-label="Your moves and the advisor's">
      <table className="dense">
        <thead>
          <tr>
            <th>you</th>
            <th>still off by</th>
            <th>the advisor</th>
            <th>still off by</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {of.map((j, i) => (
            <tr key={i}>
              <td>{j.yours}</td>
              <td className="mono copper">{khz(j.yours_left_hz)}</td>
              <td>{j.advisor}</td>
              <td className="mono tide">{khz(j.advisor_left_hz)}</td>
              <td className="small soft">{j.says}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** The raises so far, newest first. */
function Raises({ of, imperial }: { of: Played["raises"]; imperial: boolean }) {
  return (
    <ol className="thread" reversed>
      {[...of].reverse().map((r, i) => (
        <li key={of.length - i} className={i === 0 ? "now" : ""}>
          <span className="dot" />
          <b className="mono">up {of.length - i}</b>
          <div>{r.did}</div>
          <div className="small soft">
            <span className="mono">{imperial ? r.length.imperial : r.length.metric}</span>, lowest {r.min_swr.toFixed(2)} at{" "}
            <span className="mono copper">{mhz(r.min_hz)}</span>
          </div>
        </li>
      ))}
    </ol>
  );
}
