import { useGet } from "../../api/client";

/** What was learned at this place or with this kind of antenna: behind one line that stands from the beginning. */
export function Lessons({ outing, family }: { outing: string; family: string }) {
  const list = useGet("/api/outings/{id}/lessons", { path: { id: outing }, query: { family } }, { keep: true });
  const n = list.data?.length ?? 0;
  return (
    <details className="fold noprint">
      <summary>What you learned before{n > 0 ? `: ${n}` : ""}</summary>
      {n === 0 && <p>Nothing yet of this place or this kind of antenna. A line for it waits in Weigh.</p>}
      <ul className="plain stack tight">
        {list.data?.map((l) => (
          <li key={l.name + l.date + l.text}>
            <b>{l.text}</b>
            <span className="block small soft">
              {l.name}, {l.outing}, {l.date}: {l.because}
            </span>
          </li>
        ))}
      </ul>
    </details>
  );
}
