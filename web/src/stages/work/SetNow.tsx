import { type Schemas, useGet, useReference } from "../../api/client";

/** What to set on the antenna in use for a band, large enough for arm's length; only where it is set and not cut. */
export function SetNow({ tag, band, mode }: { tag?: Schemas["Tag"]; band: string; mode?: string }) {
  const reference = useReference();
  const settings = reference.data?.families.find((f) => f.id === tag?.family)?.trims === "settings";
  const marks = useGet("/api/deployments/{id}/marks", settings && tag && band ? { path: { id: tag.id }, query: { band, mode } } : null);
  const m = marks.data;
  const s = m?.sets[0]?.setting;
  if (!m || !s || s.how === "none") return null;
  return (
    <section className="setnow" aria-label="Set it now">
      <p className="small soft">
        {tag?.name} on {m.mhz} MHz
      </p>
      <p className="runnow">{s.sentence}</p>
      {s.warnings.map((w) => (
        <p key={w} className="note small">
          {w}
        </p>
      ))}
      <details className="fold">
        <summary>In this order</summary>
        <ol className="small">
          {m.guide.map((g) => (
            <li key={g}>{g}</li>
          ))}
        </ol>
      </details>
    </section>
  );
}
