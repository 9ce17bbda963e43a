import { type Schemas, useReference } from "../../api/client";
import { metres } from "../../draw/numbers";
import "../../parts/fields.css";

/** What is pressed instead of typed, for the next line: a band, a mode. Until then what the last contact had stays. */
export type Chosen = { band?: string; mode?: string };

const says = {
  band: /(^|\s)(\d{1,3}c?m|\d{1,2}[.,]\d{1,6}|\d{4,5}([.,]\d+)?k(hz)?)(?=\s|$)/i,
  // Two reports, or one, at the end of what is typed: another chip takes their place.
  reports: /(\s+[+-]?\d{2,3}){1,2}\s*$/,
};

/** The line with what was pressed for it, where the line itself does not say it. */
export function withChosen(line: string, { band, mode }: Chosen): string {
  if (line.trim() === "") return line;
  const [before = "", comment] = line.split(/;(.*)/s);
  const words = before.toUpperCase().split(/\s+/);
  const more = [band && !says.band.test(before) && band, mode && !words.includes(mode) && mode].filter(Boolean).join(" ");
  if (!more) return line;
  return comment === undefined ? `${before.trimEnd()} ${more}` : `${before.trimEnd()} ${more} ;${comment}`;
}

function Row({ name, of, on, onPress }: { name: string; of: [string, string][]; on?: string; onPress: (id: string) => void }) {
  return (
    <fieldset className="bandrow strip" aria-label={name}>
      {of.map(([id, text]) => (
        <button
          type="button"
          key={id}
          className="chip"
          aria-pressed={on === undefined ? undefined : id === on}
          // The keyboard stays where it is.
          onPointerDown={(e) => e.preventDefault()}
          onClick={() => onPress(id)}
        >
          {text}
        </button>
      ))}
    </fieldset>
  );
}

/** Bands, modes and the usual reports, under the line that they are for. */
export function Chips({
  log,
  line,
  onLine,
  chosen,
  onChoose,
}: {
  log: Schemas["Log"];
  line: string;
  onLine: (v: string) => void;
  chosen: Chosen;
  onChoose: (c: Chosen) => void;
}) {
  const reference = useReference().data;
  const band = chosen.band ?? log.stays?.band ?? "";
  const mode = chosen.mode ?? log.stays?.mode ?? "";
  const worked = log.bands.map((b) => b.band);
  const bands = reference?.bands.map((b) => b.name) ?? [];
  const first = [...bands.filter((b) => b === band), ...bands.filter((b) => b !== band && worked.includes(b))];
  const modes = reference?.modes ?? [];
  const usual = modes.find((m) => m.mode === mode) ?? modes.find((m) => m.mode === "SSB");
  return (
    <div className="stack tight chips">
      <Row
        name="Usual reports"
        of={(usual?.reports ?? []).map((r) => [r, r])}
        onPress={(r) => onLine(`${line.replace(says.reports, "").trimEnd()} ${r}`)}
      />
      <Row name="Mode" of={modes.map((m) => [m.mode, m.mode])} on={mode} onPress={(m) => onChoose({ ...chosen, mode: m })} />
      <Row
        name="Band"
        of={[...first, ...bands.filter((b) => !first.includes(b))].map((b) => [b, metres(b)])}
        on={band}
        onPress={(b) => onChoose({ ...chosen, band: b })}
      />
    </div>
  );
}
