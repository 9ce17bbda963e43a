import { useReference } from "../api/client";

/** The icon of a family and the way it hangs: its wire in a few strokes, as core drew it. */
export function Sketch({ family, variant }: { family: string; variant: string }) {
  const variants = useReference().data?.families.find((f) => f.id === family)?.variants;
  const s = (variants?.find((v) => v.id === variant) ?? variants?.[0])?.sketch;
  if (!s) return <svg viewBox="0 0 120 50" aria-hidden="true" />;
  return (
    <svg viewBox="0 0 120 50" aria-hidden="true" fill="none" strokeLinecap="round">
      <path d="M2 47H118" stroke="var(--hairline)" strokeWidth="1.5" />
      {s.pole && <path d={s.pole} stroke="var(--ink)" strokeWidth="2" />}
      {s.thin && <path d={s.thin} stroke="var(--copper)" strokeWidth="1.4" />}
      <path d={s.wire} stroke="var(--copper)" strokeWidth="2.6" strokeLinejoin="round" />
      <rect x={(s.feed[0] ?? 60) - 3.5} y={(s.feed[1] ?? 40) - 3.5} width="7" height="7" fill="var(--ink)" />
    </svg>
  );
}
