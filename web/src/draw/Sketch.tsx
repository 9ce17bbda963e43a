/** The drawing descriptions: one line for each family and way to hang it. The wire as it hangs, in a few strokes: the icon of a family and its variant. */
const strokes: Record<string, { wire: string; pole?: string; feed: [number, number]; thin?: string }> = {
  "dipole/flat": { wire: "M10 12H110", pole: "M60 12V46", feed: [60, 12] },
  "dipole/inverted-v": { wire: "M12 38L60 8L108 38", pole: "M60 8V46", feed: [60, 8] },
  "dipole/sloper": { wire: "M22 7L104 38", pole: "M22 7V46", feed: [63, 22.5] },
  "end-fed/sloper": { wire: "M16 40L96 8", pole: "M96 8V46", feed: [16, 40], thin: "M16 40L6 45" },
  "end-fed/flat": { wire: "M14 14H106", pole: "M106 14V46", feed: [14, 14], thin: "M14 14V46" },
  "end-fed/inverted-v": { wire: "M12 40L58 8L108 34", pole: "M58 8V46", feed: [12, 40], thin: "M12 40L4 45" },
  "end-fed/upright": { wire: "M60 41V4", feed: [60, 41], thin: "M60 41L44 46" },
  "dipole/upright": { wire: "M60 4V40", feed: [60, 22], thin: "M60 22H84" },
  "linked-dipole/inverted-v": { wire: "M8 40L28 29M33 26.5L60 12L87 26.5M92 29L112 40", pole: "M60 12V46", feed: [60, 12] },
  "linked-dipole/flat": { wire: "M6 14H28M34 14H86M92 14H114", pole: "M60 14V46", feed: [60, 14] },
  "doublet/flat": { wire: "M10 8H110", feed: [60, 42], thin: "M57 8V42M63 8V42M57 18H63M57 28H63M57 37H63" },
  "doublet/inverted-v": { wire: "M12 28L60 8L108 28", feed: [60, 42], thin: "M57 9V42M63 9V42M57 18H63M57 28H63M57 37H63" },
  "whip-pair/flat": { wire: "M14 20H40q2 -8 4 0t4 0t4 0H68q2 -8 4 0t4 0t4 0H106", pole: "M60 20V46", feed: [60, 20] },
  "whip-pair/inverted-v": { wire: "M20 36L60 18L100 36M38 24l6 6M76 30l6 -6", pole: "M60 18V46", feed: [60, 18] },
  "end-fed-loaded/sloper": {
    wire: "M12 40L62 22q0 -8 4 -1.5q0 -8 4 -1.5q0 -8 4 -1.5L104 8",
    pole: "M104 8V46",
    feed: [12, 40],
    thin: "M12 40L4 45",
  },
  "random-wire/sloper": { wire: "M14 40L52 20L80 16L110 8", pole: "M110 8V46", feed: [14, 40], thin: "M14 40L4 45M14 40L20 46" },
  "j-pole/upright": { wire: "M64 4V44M56 26V44M56 44H64", feed: [60, 38] },
  "j-pole/sloper": { wire: "M22 24V44M14 24V44M14 44H22M22 24L108 7", pole: "M108 7V46", feed: [18, 38] },
  "j-pole/roll-up": { wire: "M64 4V44M56 26V44M56 44H64M56 4V22", feed: [60, 38], thin: "M56 8H64M56 14H64M56 32H64" },
  "fence-wire/wooden": { wire: "M12 28H112", feed: [12, 28], thin: "M28 24V46M50 24V46M72 24V46M94 24V46" },
  "fence-wire/wired": { wire: "M12 26H112", feed: [12, 26], thin: "M28 24V46M50 24V46M72 24V46M94 24V46M22 36H112" },
  "multi-vertical/ground-radials": {
    wire: "M60 44V3M60 44L50 14M60 44L71 22",
    feed: [60, 44],
    thin: "M60 45H24M60 45H96M60 45L34 49M60 45L86 49",
  },
  "multi-vertical/raised-radials": {
    wire: "M60 32V3M60 32L51 10M60 32L70 17",
    pole: "M60 32V46",
    feed: [60, 32],
    thin: "M60 32L26 40M60 32L94 40",
  },
  "whip/ground-radials": { wire: "M60 42V30M60.5 30V18M61 18V4", feed: [60, 42], thin: "M54 30H66M56 18H66M60 45H28M60 45H92" },
  "loaded-whip/ground-radials": { wire: "M60 43V37q-8 -2 0 -4t0 -4t0 -4V4", feed: [60, 43], thin: "M60 45H28M60 45H92M60 45L38 49" },
  "helix/ground-radials": {
    wire: "M60 43q-9 -2 0 -4t0 -4t0 -4t0 -4t0 -4t0 -4t0 -4t0 -4V6",
    pole: "M60 46V5",
    feed: [60, 44],
    thin: "M60 45H30M60 45H90",
  },
  "rectangle/level": { wire: "M30 22V40H90V22M30 14V8H90V14", pole: "M60 24V26", feed: [60, 40] },
  "small-loop/upright": { wire: "M57 6A17 17 0 1 0 63 6", pole: "M60 40V46", feed: [60, 40], thin: "M57 3V9M63 3V9" },
  "small-loop/flat": { wire: "M56 12A34 9 0 1 0 64 12", pole: "M60 30V46", feed: [60, 30], thin: "M56 9V15M64 9V15" },
  "vertical/ground-radials": { wire: "M60 44V4", feed: [60, 44], thin: "M60 45H24M60 45H96M60 45L34 49M60 45L86 49" },
  "vertical/raised-radials": {
    wire: "M60 30V3",
    pole: "M60 30V46",
    feed: [60, 30],
    thin: "M60 30L26 40M60 30L94 40M60 30L42 43M60 30L78 43",
  },
};

export function Sketch({ family, variant }: { family: string; variant: string }) {
  const s = strokes[`${family}/${variant}`] ?? strokes[Object.keys(strokes).find((k) => k.startsWith(`${family}/`)) ?? ""];
  if (!s) return <svg viewBox="0 0 120 50" aria-hidden="true" />;
  return (
    <svg viewBox="0 0 120 50" aria-hidden="true" fill="none" strokeLinecap="round">
      <path d="M2 47H118" stroke="var(--hairline)" strokeWidth="1.5" />
      {s.pole && <path d={s.pole} stroke="var(--ink)" strokeWidth="2" />}
      {s.thin && <path d={s.thin} stroke="var(--copper)" strokeWidth="1.4" />}
      <path d={s.wire} stroke="var(--copper)" strokeWidth="2.6" strokeLinejoin="round" />
      <rect x={s.feed[0] - 3.5} y={s.feed[1] - 3.5} width="7" height="7" fill="var(--ink)" />
    </svg>
  );
}
