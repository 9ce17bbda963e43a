import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import type { Scouting, Typed } from "./useScout";

type Text = { [K in keyof Typed]-?: Typed[K] extends string ? K : never }[keyof Typed];

/** The fields of a purpose by their paths in the contract. */
const at: Record<string, Text> = {
  from: "from",
  until: "until",
  frequencies_mhz: "bands",
  near_km: "near",
  "far.bearing": "bearing",
  "far.km": "km",
  setup_minutes: "minutes",
  carry_minutes: "carry",
  most_kg: "kg",
  wind_ms: "wind",
  sunspots: "sunspots",
  high_water: "high",
};

/** The bulletin, typed or pasted; the one that is fetched is made up, and says so in its first line. */
function BulletinField({ scout: s }: { scout: Scouting }) {
  const said = s.answer.fields?.find((f) => f.path === "bulletin")?.detail;
  const unread = s.answer.result?.notes?.find((f) => f.path === "bulletin")?.text;
  return (
    <div className="stack tight">
      <TextField
        label="Bulletin: weather, lightning, sun"
        multiline
        minRows={2}
        value={s.v.bulletin}
        error={said !== undefined}
        helperText={said ?? unread ?? "like wind 6 m/s gusts 11 m/s; thunderstorms 40 %; lightning 14:20 12 km; flux 140; K 3"}
        onChange={(e) => s.set({ bulletin: e.target.value })}
      />
      <div>
        <Button variant="outlined" onClick={() => void s.fetchBulletin()}>
          Fill in a simulated bulletin
        </Button>
      </div>
    </div>
  );
}

/** What the outing is for. */
export function PurposeForm({ scout: s }: { scout: Scouting }) {
  const one = (id: Text, label: string, help = "", mode: "decimal" | "text" = "decimal") => {
    const text = s.v[id].trim();
    const said = s.answer.fields?.find((f) => at[f.path] === id)?.detail;
    const wrong = mode === "decimal" && Number.isNaN(Number(text.replace(",", "."))) ? `"${text}" is no number` : said;
    return (
      <TextField
        label={label}
        error={wrong !== undefined}
        helperText={wrong ?? (help || undefined)}
        inputMode={mode}
        value={s.v[id]}
        onChange={(e) => s.set({ [id]: e.target.value } as Partial<Typed>)}
      />
    );
  };
  const where: [Typed["where"], string][] = [
    ["anywhere", "anywhere"],
    ["near", "near, all directions"],
    ["far", "one distant place"],
  ];
  return (
    <section className="stack" aria-label="Goal">
      <fieldset className="choice">
        <legend>To reach</legend>
        {where.map(([id, name]) => (
          <label key={id}>
            <input type="radio" name="where" checked={s.v.where === id} onChange={() => s.set({ where: id })} />
            {name}
          </label>
        ))}
      </fieldset>
      <div className="fields">
        {one("bands", "Frequencies, MHz", "like 7.03 14.06; the first matters most", "text")}
        {s.v.where === "near" && one("near", "Up to, km")}
        {s.v.where === "far" && one("bearing", "Bearing, degrees")}
        {s.v.where === "far" && one("km", "Distance, km")}
        {one("from", "From, UTC", "like 09:00", "text")}
        {one("until", "Until, UTC", "", "text")}
        <TextField
          select
          label="Mode"
          value={s.v.mode}
          onChange={(e) => s.set({ mode: e.target.value })}
          slotProps={{ select: { native: true } }}
        >
          <option value="cw">CW</option>
          <option value="ssb">SSB</option>
          <option value="digital">slow digital</option>
        </TextField>
        {one("minutes", "Minutes to set up", "none if it does not matter")}
        {one("carry", "Minutes to carry it", "15 if left empty")}
        {one("kg", "At most, kg")}
        {one("wind", "Wind, m/s", "overrides the forecast gusts")}
        {one("sunspots", "Sunspot number", "of the bulletin, or 70, if left empty")}
        {one("high", "High water, UTC", "like 01:10 13:35", "text")}
      </div>
      <BulletinField scout={s} />
      <div className="row">
        <label className="tall">
          <input type="checkbox" checked={s.v.alone} onChange={(e) => s.set({ alone: e.target.checked })} /> alone
        </label>
        <label className="tall">
          <input type="checkbox" checked={s.v.storm} onChange={(e) => s.set({ storm: e.target.checked })} /> thunderstorms expected
        </label>
      </div>
    </section>
  );
}
