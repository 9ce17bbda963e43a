/** How antennas are told apart in a map: by shape first, by colour beside it. */
const looks = [
  { stroke: "var(--tide)", d: "M-6 0a6 6 0 1 0 12 0a6 6 0 1 0 -12 0z" },
  { stroke: "var(--copper)", d: "M0 -7L6.5 5H-6.5z" },
  { stroke: "var(--reed)", d: "M-5.5 -5.5h11v11h-11z" },
  { stroke: "var(--clay)", d: "M0 -7.5L6 0L0 7.5L-6 0z" },
  { stroke: "var(--soft)", d: "M-5 -5L5 5M5 -5L-5 5" },
];

const look = (i: number) => looks[i < 0 ? looks.length - 1 : i % (looks.length - 1)] ?? looks[0];

/** A mark of the antenna with a number, -1 for none, at its place; larger where more was heard. */
export function AerialMark({ n, x, y, size = 1, solid = false }: { n: number; x: number; y: number; size?: number; solid?: boolean }) {
  const l = look(n);
  return (
    <path
      d={l?.d}
      transform={`translate(${x.toFixed(1)} ${y.toFixed(1)}) scale(${size.toFixed(2)})`}
      fill={solid ? l?.stroke : "var(--card)"}
      fillOpacity={solid ? 1 : 0.7}
      stroke={l?.stroke}
      strokeWidth={2 / size}
    />
  );
}

/** Its mark in a line of text. */
export function AerialKey({ n, name }: { n: number; name: string }) {
  return (
    <span className="aerialkey">
      <svg viewBox="-9 -9 18 18" width="18" height="18" aria-hidden="true">
        <AerialMark n={n} x={0} y={0} solid />
      </svg>
      {name}
    </span>
  );
}
