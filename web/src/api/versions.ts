import type { Waiting } from "./box";

/** The thing that a write changes. */
export const thingOf = (w: Pick<Waiting, "path" | "body">) =>
  w.path === "/api/me" ? "me" : (w.path.match(/[0-9a-f]{8}-[0-9a-f-]{27}/)?.[0] ?? (w.body as { id?: string })?.id ?? "");

/** What is written as a whole, and answered with its version. */
const named = /^\/api\/(me|(outings|sites|deployments|recipes|photos|sweeps|marks|parts|runs|schemes|notes|contacts)\/[^/]+)$/;

/** Reports whether an answer confirms a write: it names the id and the version. Any other page with a good status confirms nothing. */
export function confirms(answer: unknown, w: Waiting) {
  if (typeof answer !== "object" || answer === null || Object.keys(answer).length === 0) return false;
  if (w.version !== undefined && named.test(w.path) && typeof versionIn(answer) !== "number") return false;
  const id = (answer as { id?: unknown }).id;
  const asked = decodeURIComponent(w.path.split("/")[3] ?? "") || (w.body as { id?: string } | undefined)?.id;
  return id === undefined || w.path === "/api/me" || !asked || id === asked;
}

/** The version that a write left behind, where its answer has one. */
function versionIn(answer: unknown): number | undefined {
  const a = (answer ?? {}) as {
    version?: number;
    outing?: { version?: number };
    part?: { version?: number };
    deployment?: { version?: number };
    run?: { version?: number };
  };
  return a.version ?? a.outing?.version ?? a.part?.version ?? a.deployment?.version ?? a.run?.version;
}

/** For each thing, which version this page's own writes made of which. */
const own = new Map<string, Map<number, number>>();

/** Remembers the version that a write made, for writes that are made from the one before. */
export function noteVersion(w: Waiting, answer: unknown) {
  const to = versionIn(answer);
  if (w.version === undefined || to === undefined || to <= w.version) return;
  const steps = own.get(thingOf(w)) ?? new Map<number, number>();
  own.set(thingOf(w), steps.set(w.version, to));
}

/**
 * The version that a new write follows: the one it was made from, or what this page made of that one since, or will have made once
 * the earlier writes of the same thing are through.
 */
export function followedVersion(w: Waiting, earlier: Waiting[]) {
  const steps = own.get(thingOf(w));
  let version = w.version ?? 0;
  for (let to = steps?.get(version); to !== undefined; to = steps?.get(version)) version = to;
  for (const e of earlier)
    if (!e.refused && e.version !== undefined && thingOf(e) === thingOf(w)) version = Math.max(version, e.version + 1);
  return version;
}
