import { useGet } from "../../api/client";
import { useWide } from "../../parts/Fold";

/** What was learned at this place or with this kind of antenna: behind one line of its own where there is room for it, otherwise with
 * why the lengths are as they are. */
export function Lessons({ outing, family, among }: { outing: string; family: string; among?: boolean }) {
  const wide = useWide();
  const list = useGet("/api/outings/{id}/lessons", { path: { id: outing }, query: { family } }, { keep: true });
  if (wide === (among ?? false)) return null;
  const n = list.data?.length ?? 0;
  const all = (
    <ul className="plain stack tight">
      {n === 0 && <li>No notes yet for this place or this kind of antenna. Add them in Weigh.</li>}
      {list.data?.map((l) => (
        <li key={l.name + l.date + l.text}>
          <b>{l.text}</b>
          <span className="block small soft">
            {l.name}, {l.outing}, {l.date}: {l.because}
          </span>
        </li>
      ))}
    </ul>
  );
  if (among)
    return (
      <>
        <h3>Notes from past outings</h3>
        {all}
      </>
    );
  return (
    <details className="fold noprint">
      <summary>Notes from past outings{n > 0 ? `: ${n}` : ""}</summary>
      {all}
    </details>
  );
}
