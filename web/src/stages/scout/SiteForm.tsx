import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { SiteFile } from "./SiteFile";
import type { Scouting } from "./useScout";

/** The site, one thing a line as it is paced, with what each line says wrong below. */
export function SiteForm({ scout: s }: { scout: Scouting }) {
  const lines = s.v.lines.split("\n");
  const faults = s.read?.faults ?? [];
  const take = (id: string) => {
    const kept = s.shelf?.sites.find((x) => x.id === id);
    if (kept) s.set({ site: kept.id, name: kept.name, noise: kept.noise || "rural", lines: kept.lines.join("\n") });
    const plain = s.shelf?.patterns.find((x) => x.id === id);
    if (plain) s.set({ site: "", lines: plain.lines.join("\n") });
  };
  return (
    <section className="stack" aria-label="The site">
      <select className="pick" aria-label="Start from" value="" onChange={(e) => take(e.target.value)}>
        <option value="">Start from…</option>
        {s.shelf?.sites.map((x) => (
          <option key={x.id} value={x.id}>
            {x.name}, kept
          </option>
        ))}
        {s.shelf?.patterns.map((x) => (
          <option key={x.id} value={x.id}>
            {x.name}
          </option>
        ))}
      </select>
      <SiteFile take={(lines) => s.set({ site: "", lines: lines.join("\n") })} />
      <div className="fields">
        <TextField label="Called" value={s.v.name} onChange={(e) => s.set({ name: e.target.value })} />
        <TextField
          select
          label="Noise around"
          value={s.v.noise}
          onChange={(e) => s.set({ noise: e.target.value })}
          slotProps={{ select: { native: true } }}
        >
          {(s.shelf?.surroundings ?? [{ id: s.v.noise, name: s.v.noise }]).map((x) => (
            <option key={x.id} value={x.id}>
              {x.name}
            </option>
          ))}
        </TextField>
      </div>
      <TextField
        label="Site objects, one per line"
        multiline
        minRows={5}
        value={s.v.lines}
        error={faults.some((f) => f.severity === "error")}
        helperText='like "tree, 14 m at 230 degrees, 9 m high", "path, 9 m at 0 to 12 m at 90", "no stakes"'
        onChange={(e) => s.set({ lines: e.target.value })}
        slotProps={{ htmlInput: { className: "mono", spellCheck: false } }}
      />
      {faults.map((f) => {
        const n = Number(f.path.split(".")[1]);
        return (
          <p key={f.path + f.text} className={f.severity === "error" ? "note error small" : "note small"}>
            <b>{Number.isNaN(n) ? "" : `line ${n + 1}, ${lines[n]?.slice(0, 30)}: `}</b>
            {f.text}
          </p>
        );
      })}
      <div>
        <Button variant="contained" onClick={() => void s.save()}>
          Save site and goal
        </Button>{" "}
        <span role="status">{s.told}</span>
      </div>
    </section>
  );
}
