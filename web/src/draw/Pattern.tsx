import type { Schemas } from "../api/client";

const range = 24; // dB from the outermost ring to the middle

/** Where a gain lies between the middle (0) and the outermost ring (1). */
const share = (db: number, top: number) => Math.max(0, 1 - (top - db) / range);

const place = (cx: number, cy: number, r: number, degrees: number): [number, number] => {
  const a = (degrees * Math.PI) / 180;
  return [cx + r * Math.cos(a), cy - r * Math.sin(a)];
};

const line = (points: [number, number][]) => points.map(([x, y]) => `${x.toFixed(1)} ${y.toFixed(1)}`).join("L");

/** How much goes up at which angle: the sky as a dome over the ground, the strongest direction to the right. */
export function Dome({ of }: { of: Schemas["Pattern"] }) {
  const [cx, cy, r] = [150, 138, 122];
  const top = Math.max(...of.elevation);
  const curve = of.elevation.map((db, i) => place(cx, cy, r * share(db, top), i * 2));
  const ray = place(cx, cy, r + 4, of.take_off);
  const label = place(cx, cy, r + 16, Math.min(of.take_off, 78));
  return (
    <svg
      viewBox="0 -14 300 178"
      className="pattern"
      role="img"
      aria-label={`Strongest ${of.take_off.toFixed(0)} degrees above the horizon, ${of.gain.toFixed(1)} dBi`}
    >
      {[0, 6, 12, 18].map((down) => {
        const q = r * (1 - down / range);
        return <path key={down} d={`M${cx - q} ${cy}A${q} ${q} 0 0 1 ${cx + q} ${cy}`} fill="none" stroke="var(--grid)" />;
      })}
      {[30, 60, 90, 120, 150].map((d) => (
        <path key={d} d={`M${cx} ${cy}L${line([place(cx, cy, r, d)])}`} stroke="var(--grid)" />
      ))}
      <path d={`M${line(curve)}Z`} fill="var(--tide)" fillOpacity="0.14" stroke="var(--tide)" strokeWidth="2.4" strokeDasharray="8 5" />
      <path d={`M${cx} ${cy}L${line([ray])}`} stroke="var(--ink)" strokeWidth="1.4" />
      <path d={`M${cx - r - 14} ${cy}H${cx + r + 14}`} stroke="var(--ink)" strokeWidth="2" />
      <text
        x={Math.min(label[0], 292)}
        y={label[1]}
        fontSize="15"
        fontWeight="700"
        className="mono"
        fill="var(--ink)"
        textAnchor={of.take_off > 70 ? "middle" : "end"}
      >
        {of.take_off.toFixed(0)}°
      </text>
      <text x={cx} y={158} fontSize="13" textAnchor="middle" fill="var(--ink)">
        rings 6 dB apart, outermost {top.toFixed(1)} dBi
      </text>
    </svg>
  );
}

/** Where it goes, seen from above at the take-off angle: north up where the bearing is known, otherwise the
 * antenna's own direction to the right. */
export function Rose({ of }: { of: Schemas["Pattern"] }) {
  const [cx, cy, r] = [150, 138, 112];
  const top = Math.max(...of.azimuth);
  const known = of.bearing !== undefined;
  // The antenna's own direction on the page: east of it is to the right when north is up.
  const own = known ? 90 - ((of.bearing as number) + of.direction) : 0;
  const curve = of.azimuth.map((db, i) => place(cx, cy, r * share(db, top), own + i * 5));
  const wire = [place(cx, cy, 16, own), place(cx, cy, 16, own + 180)];
  return (
    <svg
      viewBox="0 0 300 276"
      className="pattern"
      role="img"
      aria-label={
        known ? `Strongest towards ${(of.bearing as number).toFixed(0)} degrees` : "Seen from above, along the antenna to the right"
      }
    >
      {[0, 6, 12, 18].map((down) => (
        <circle key={down} cx={cx} cy={cy} r={r * (1 - down / range)} fill="none" stroke="var(--grid)" />
      ))}
      <path d={`M${line(curve)}Z`} fill="var(--tide)" fillOpacity="0.14" stroke="var(--tide)" strokeWidth="2.4" strokeDasharray="8 5" />
      <path d={`M${line(wire)}`} stroke="var(--copper)" strokeWidth="4" />
      {known &&
        ["N", "E", "S", "W"].map((n, i) => {
          const [x, y] = place(cx, cy, r + 12, 90 - 90 * i);
          return (
            <text key={n} x={x} y={y + 5} fontSize="15" fontWeight="700" textAnchor="middle" fill="var(--ink)">
              {n}
            </text>
          );
        })}
      <text x={cx} y={270} fontSize="13" textAnchor="middle" fill="var(--ink)">
        {known ? "seen from above, north up" : "seen from above, the antenna lies left to right"}
      </text>
    </svg>
  );
}
