import type { Schemas } from "../../api/client";
import type { Entry } from "./Line";
import { Notes } from "./Notes";
import { Out } from "./Out";
import { SetNow } from "./SetNow";

/** What stands beside the line: what is noted between contacts, what to set now, the radio and who is out. */
export function Beside({
  outing,
  log,
  tag,
  entry: e,
}: {
  outing: Schemas["OutingDetail"];
  log: Schemas["Log"];
  tag?: Schemas["Tag"];
  entry: Entry;
}) {
  const band = e.chosen.band ?? log.stays?.band;
  const mode = e.chosen.mode ?? log.stays?.mode;
  return (
    <>
      <Notes outing={outing} log={log} tag={tag} band={band ?? ""} />
      <SetNow tag={tag} band={band ?? ""} mode={mode} />
      <Out
        outing={outing}
        tag={tag}
        stays={{ band, mode }}
        onWords={(words) => {
          // A spot begins a line; what the radio says is added to it.
          e.setLine(/^[A-Z]/.test(words) ? words : `${e.line.trim()} ${words}`.trim());
          e.input.current?.focus();
        }}
      />
    </>
  );
}
