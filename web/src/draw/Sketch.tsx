/** The wire as it hangs, in a few strokes: the icon of a family and its variant. */
const strokes: Record<string, { wire: string; pole?: string; feed: [number, number]; thin?: string }> = {
  "dipole/flat": { wire: "M10 12H110", pole: "M60 12V46", feed: [60, 12] },
  "dipole/inverted-v": { wire: "M12 38L60 8L108 38", pole: "M60 8V46", feed: [60, 8] },
  "dipole/sloper": { wire: "M22 7L104 38", pole: "M22 7V46", feed: [63, 22.5] },
  "end-fed/sloper": { wire: "M16 40L96 8", pole: "M96 8V46", feed: [16, 40], thin: "M16 40L6 45" },
  "end-fed/flat": { wire: "M14 14H106", pole: "M106 14V46", feed: [14, 14], thin: "M14 14V46" },
  "end-fed/inverted-v": { wire: "M12 40L58 8L108 34", pole: "M58 8V46", feed: [12, 40], thin: "M12 40L4 45" },
  "end-fed/upright": { wire: "M60 41V4", feed: [60, 41], thin: "M60 41L44 46" },
  "vertical/ground-radials": { wire: "M60 44V4", feed: [60, 44], thin: "M60 45H24M60 45H96M60 45L34 49M60 45L86 49" },
  "vertical/raised-radials": {
    wire: "M60 30V3",
    pole: "M60 30V46",
    feed: [60, 30],
    thin: "M60 30L26 40M60 30L94 40M60 30L42 43M60 30L78 43",
  },
};

export function Sketch({ family, variant }: { family: string; variant: string }) {
  const s = strokes[`${family}/${variant}`] ?? strokes[`${family}/flat`];
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
