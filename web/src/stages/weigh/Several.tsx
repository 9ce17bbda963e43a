import { type Schemas, useGet, wrong } from "../../api/client";
import { many } from "../../draw/numbers";
import { Fold } from "../../parts/Fold";

/** The deployment of what is weighed: itself, or one of its revisions as ID@2. */
export const idOf = (picked: string): string => picked.split("@")[0] ?? "";

type Placed = Schemas["PlacedTag"];
type Group = Schemas["GroupInfo"];

const kinds = { antenna: "one antenna", recipe: "a recipe", family: "a kind of antenna" };

/** A label for several set-ups that are weighed as one. */
export function GroupTag({ of: g, pressed, onClick }: { of: Group; pressed: boolean; onClick: () => void }) {
  return (
    <button type="button" className="tag bunch" aria-pressed={pressed} onClick={onClick}>
      <b>{g.name}</b>
      <span>{many(g.set_ups, "set-up")}</span>
      <span className="state">
        {kinds[g.kind]}, over {many(g.outings, "outing")}
      </span>
    </button>
  );
}

function nameOf(picked: string, tags: Placed[], groups: Group[]) {
  const group = groups.find((g) => g.id === picked);
  if (group) return group.name;
  const tag = tags.find((t) => t.tag.id === idOf(picked));
  const seq = picked.split("@")[1];
  return `${tag?.tag.name ?? "?"}${seq ? `, revision ${seq}` : ""}`;
}

/** Antennas compared, the first against each of the others: latest revision or as a revision, and what the air says of each. */
export function Several({
  picked,
  tags,
  groups,
  against,
  onAgainst,
  onPicked,
}: {
  picked: string[];
  tags: Placed[];
  groups: Group[];
  against: string;
  onAgainst: (id: string) => void;
  onPicked: (picked: string[]) => void;
}) {
  const changed = picked.some((p) => (tags.find((t) => t.tag.id === idOf(p))?.revisions ?? 0) > 1);
  if (picked.length < 3 && !changed) return null;
  const put = (i: number, id: string) => onPicked(picked.map((p, k) => (k === i ? id : p)));
  return (
    <section className="stack tight noprint several" aria-label="Antennas compared">
      <Fold name="Antennas compared" says="revisions, and the first against each other">
        <ol className="plain row">
          {picked.map((p, i) => {
            const tag = tags.find((t) => t.tag.id === idOf(p));
            const revisions = tag?.revisions ?? 0;
            return (
              <li key={p} className="row">
                <b>{tag?.tag.name ?? nameOf(p, tags, groups)}</b>
                {revisions > 1 && (
                  <select className="pick" aria-label={`${tag?.tag.name}, as`} value={p} onChange={(e) => put(i, e.target.value)}>
                    <option value={idOf(p)}>latest revision</option>
                    {Array.from({ length: revisions }, (_, k) => `${idOf(p)}@${k + 1}`)
                      .filter((id) => id === p || !picked.includes(id))
                      .map((id) => (
                        <option key={id} value={id}>
                          revision {id.split("@")[1]}
                        </option>
                      ))}
                  </select>
                )}
                {revisions > 1 && picked.length < 5 && (
                  <button
                    type="button"
                    className="linkbtn slim"
                    onClick={() => {
                      const taken = new Set(picked);
                      const free = Array.from({ length: revisions }, (_, k) => `${idOf(p)}@${revisions - k}`).filter(
                        (id) => !taken.has(id),
                      );
                      const own = p.includes("@") ? p : (free.shift() ?? p);
                      if (free[0]) onPicked([...picked.slice(0, i), own, free[0], ...picked.slice(i + 1)]);
                    }}
                  >
                    against another revision of it
                  </button>
                )}
                {i > 0 && picked.length > 2 && (
                  <button type="button" className="chip" aria-pressed={p === against} onClick={() => onAgainst(p)}>
                    {nameOf(picked[0] ?? "", tags, groups)} against it
                  </button>
                )}
                {i > 0 && picked.length > 2 && <Told a={picked[0] ?? ""} b={p} />}
              </li>
            );
          })}
        </ol>
      </Fold>
    </section>
  );
}

/** What the strongest evidence says of two. */
function Told({ a, b }: { a: string; b: string }) {
  const view = useGet("/api/weigh", { query: { a, b } });
  return <span className="small">{view.data?.comparison.headline ?? (view.error ? wrong(view.error) : "")}</span>;
}
