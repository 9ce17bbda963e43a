import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import { useSyncExternalStore } from "react";
import { v7 as uuid } from "uuid";
import { type Answer, answered, type Body, elsewhere, filled, NoLink, refresh, type Schemas, Trouble, type With, wire } from "./client";

/** A write that is on its way, or was refused. Its id and version make sending it twice harmless. */
export interface Waiting {
  key: string;
  at: string;
  /** Its place among the writes of this device: a clock may jump back, and this does not. */
  order?: number;
  method: string;
  path: string;
  body: unknown;
  label: string;
  /** The version that it was made from. */
  version?: number;
  refused?: string;
  /** What is there, where something else was kept meanwhile. */
  conflict?: Schemas["Conflict"];
}

interface Box extends DBSchema {
  waiting: { key: string; value: Waiting };
}

type Link = "saved" | "saving" | "kept here";

let db: Promise<IDBPDatabase<Box>> | undefined;
const box = () => {
  db ??= openDB<Box>("outbox", 1, { upgrade: (d) => void d.createObjectStore("waiting", { keyPath: "key" }) });
  return db;
};

/** What waits, what is on its way just now, and whether this browser can keep anything for later. */
let state: { link: Link; waiting: Waiting[]; sending: Waiting[]; keeps: boolean } = {
  link: "saved",
  waiting: [],
  sending: [],
  keeps: true,
};
const listeners = new Set<() => void>();
const set = (next: Partial<typeof state>) => {
  state = { ...state, ...next };
  for (const l of listeners) l();
};

export const useOutbox = () =>
  useSyncExternalStore(
    (l) => {
      listeners.add(l);
      return () => listeners.delete(l);
    },
    () => state,
  );

/** Keys of writes that are on their way just now: they are in the box already, but not yet late. */
const underway = new Map<string, Waiting>();

const byOrder = (a: Waiting, b: Waiting) => (a.order ?? 0) - (b.order ?? 0) || a.at.localeCompare(b.at);

/** The highest place that this page gave; others may have given more, which the box knows. */
let lastOrder = 0;

/** Puts a write into the box, behind all that are there. Where nothing can be kept it is only sent. */
async function keepFirst(w: Waiting) {
  try {
    const tx = (await box()).transaction("waiting", "readwrite");
    const there = await tx.store.getAll();
    lastOrder = Math.max(lastOrder, ...there.map((x) => x.order ?? 0)) + 1;
    w.order = lastOrder;
    await Promise.all([tx.store.put(w), tx.done]);
    if (!state.keeps) set({ keeps: true });
  } catch {
    set({ keeps: false });
  }
}

/** Takes a write out of the box; one that was never in it is fine. */
const take = async (key: string) => {
  try {
    await (await box()).delete("waiting", key);
  } catch {
    set({ keeps: false });
  }
};

const late = () => state.waiting.some((w) => !w.refused);

const reload = async () => {
  const sending = [...underway.values()].sort(byOrder);
  let all: Waiting[] = [];
  try {
    all = await (await box()).getAll("waiting");
  } catch {
    set({ keeps: false });
  }
  const waiting = all.filter((w) => !underway.has(w.key)).sort(byOrder);
  set({ waiting, sending, link: waiting.some((w) => !w.refused) ? "kept here" : underway.size > 0 ? "saving" : "saved" });
};

/** What is written as a whole, and answered with its version. */
const named = /^\/api\/(me|(outings|sites|deployments|recipes|photos|sweeps|marks|parts|runs|schemes|notes|contacts)\/[^/]+)$/;

/** A write is done when the answer speaks of it: any other page with a good status says nothing. */
function confirmed(w: Waiting, answer: unknown) {
  if (typeof answer !== "object" || answer === null || Object.keys(answer).length === 0) return false;
  if (w.version !== undefined && named.test(w.path) && typeof left(answer) !== "number") return false;
  const id = (answer as { id?: unknown }).id;
  const asked = decodeURIComponent(w.path.split("/")[3] ?? "") || (w.body as { id?: string } | undefined)?.id;
  return id === undefined || w.path === "/api/me" || !asked || id === asked;
}

/** What waits is a path as it was when it was written: it may be older than the contract that the page knows. */
const post = async (w: Waiting) => {
  const answer = await answered(
    wire.request(
      w.method.toLowerCase() as "put",
      w.path as "/api/me",
      {
        params: { query: { version: w.version } },
        body: w.body,
      } as never,
    ) as Promise<{ data?: unknown; error?: unknown; response: Response }>,
  );
  if (!confirmed(w, answer)) throw new NoLink(elsewhere);
  return answer;
};

/** The thing that a write is of. */
export const thingOf = (w: Pick<Waiting, "path" | "body">) =>
  w.path === "/api/me" ? "me" : (w.path.match(/[0-9a-f]{8}-[0-9a-f-]{27}/)?.[0] ?? (w.body as { id?: string })?.id ?? "");

/** What this page's own writes made of which version, by thing: what is typed behind one follows it, also before the
 * answer was read anew everywhere. */
const own = new Map<string, Map<number, number>>();

/** The version that a write left behind, where its answer says so. */
function left(answer: unknown): number | undefined {
  const a = (answer ?? {}) as {
    version?: number;
    outing?: { version?: number };
    part?: { version?: number };
    deployment?: { version?: number };
    run?: { version?: number };
  };
  return a.version ?? a.outing?.version ?? a.part?.version ?? a.deployment?.version ?? a.run?.version;
}

function noted(w: Waiting, answer: unknown) {
  const to = left(answer);
  if (w.version === undefined || to === undefined || to <= w.version) return;
  const of = own.get(thingOf(w)) ?? new Map<number, number>();
  own.set(thingOf(w), of.set(w.version, to));
}

/** A write that is made behind this page's own, or while an earlier one of the same thing still waits here, follows that. */
function following(w: Waiting, waiting: Waiting[]) {
  let version = w.version ?? 0;
  for (let to = own.get(thingOf(w))?.get(version); to !== undefined; to = own.get(thingOf(w))?.get(version)) version = to;
  for (const e of waiting)
    if (!e.refused && e.version !== undefined && thingOf(e) === thingOf(w)) version = Math.max(version, e.version + 1);
  return version;
}

/** Locked out of the notebook is no word on the write: it waits until this device was let in. */
const waits = (e: unknown) => e instanceof NoLink || (e instanceof Trouble && e.status === 401);

/**
 * Send a write, made from a version of what it changes (0 for a new thing). It is put into the box before it is
 * sent, so that neither a lost link nor a closed page loses it; sending it twice is harmless. When the link is down
 * the answer is undefined, and it is sent later. A refusal is thrown as Trouble, so that the form can show it at its
 * field. Where something else was kept meanwhile it stays in the box as well, to choose from both; and so does what keepRefused wants
 * kept.
 */
export async function send<M extends "put" | "post" | "delete", P extends With<M>>(
  method: M,
  path: P,
  at: Record<string, string>,
  body: Body<P, M>,
  label: string,
  version?: number,
  keepRefused?: (e: Trouble) => boolean,
): Promise<Answer<P, M> | undefined> {
  const w: Waiting = {
    key: uuid(),
    at: new Date().toISOString(),
    method: method.toUpperCase(),
    path: filled(path, { path: at }),
    body,
    label,
    version,
  };
  if (version !== undefined) w.version = following(w, state.waiting);
  underway.set(w.key, w);
  set({ link: "saving", sending: [...underway.values()].sort(byOrder) });
  await keepFirst(w);
  try {
    // What waits goes first, so that a later write cannot overtake an earlier one.
    if (late()) await flush();
    const answer = (await inTurn(w)) as Answer<P, M>;
    noted(w, answer);
    await take(w.key);
    const shown = shownAnew(w);
    // A form shows next what it kept. The log goes on at once: its row is there already, marked as on its way.
    if (!w.path.startsWith("/api/contacts/")) await shown;
    return answer;
  } catch (e) {
    underway.delete(w.key);
    const kept = async (x: Waiting) => (await box()).put("waiting", x).catch(() => undefined);
    if (e instanceof Trouble && (e.conflict || keepRefused?.(e))) await kept({ ...w, refused: e.whole, conflict: e.conflict });
    else if (!waits(e)) await take(w.key);
    await reload();
    if (waits(e) && state.keeps) return undefined;
    throw e;
  }
}

/** Reads everything anew after a write; until then the write is shown as on its way. */
async function shownAnew(w: Waiting) {
  await refresh();
  underway.delete(w.key);
  await reload();
}

/** Writes of one thing go out one after the other, in the order in which they were made, and so do lines of the log: band and mode
 * stay from one to the next. */
const before = new Map<string, Promise<unknown>>();
function inTurn(w: Waiting): Promise<unknown> {
  const lane = w.path.endsWith("/line") ? "lines" : thingOf(w);
  const mine = (before.get(lane) ?? Promise.resolve()).then(() => post(w));
  before.set(
    lane,
    mine.catch(() => undefined),
  );
  return mine;
}

let flushing = false;
async function flush() {
  if (flushing) return;
  flushing = true;
  try {
    for (const w of (await (await box()).getAll("waiting")).sort(byOrder)) {
      if (w.refused || underway.has(w.key)) continue;
      try {
        noted(w, await post(w));
        await (await box()).delete("waiting", w.key);
      } catch (e) {
        if (waits(e)) throw e;
        const conflict = e instanceof Trouble ? e.conflict : undefined;
        await (await box()).put("waiting", { ...w, refused: e instanceof Trouble ? e.whole : String(e), conflict });
      }
    }
  } finally {
    flushing = false;
    await reload();
  }
}

/** Take a refused write out of the box; what it was is returned, so that it can be put back. */
export async function forget(w: Waiting) {
  await (await box()).delete("waiting", w.key);
  await reload();
}

/** Put a write back that was taken out. */
export async function putBack(w: Waiting) {
  await (await box()).put("waiting", w);
  await reload();
}

/** Send a refused write again, with what was changed in it; a refusal is shown in its place. */
export async function again(w: Waiting, body: unknown, version = w.version) {
  await (await box()).put("waiting", { ...w, body, version, refused: undefined, conflict: undefined });
  await reload();
  await flush().catch(() => undefined);
  await refresh();
}

/** The pause before the next try: twice as long every time, up to a minute. */
const shortest = 2000;
let pause = shortest;
let next: ReturnType<typeof setTimeout> | undefined;

async function look() {
  if (late())
    try {
      await flush();
      await refresh();
      pause = shortest;
    } catch {
      pause = Math.min(pause * 2, 60_000);
    }
  next = setTimeout(() => void look(), late() ? pause * (0.8 + 0.4 * Math.random()) : shortest);
}

/** Look whether the link is back while something waits, with growing pauses; at once when the browser says so. */
export function startOutbox() {
  void reload().catch(() => set({ link: "saved" }));
  void look();
  addEventListener("online", () => {
    clearTimeout(next);
    pause = shortest;
    void look();
  });
}
