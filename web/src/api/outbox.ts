import { useSyncExternalStore } from "react";
import { v7 as uuid } from "uuid";
import { append, byOrder, remove, store, stored, type Waiting } from "./box";
import { type Answer, answered, type Body, elsewhere, filled, NoLink, page, refresh, Trouble, type With, wire } from "./client";
import { confirms, followedVersion, noteVersion } from "./versions";

export type { Waiting } from "./box";
export { thingOf } from "./versions";

type Link = "saved" | "saving" | "kept here";

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

/** Does something with the box; where the browser can store nothing, it says so and goes on. */
async function tryStore<T>(does: Promise<T>): Promise<T | undefined> {
  try {
    return await does;
  } catch {
    set({ keeps: false });
    return undefined;
  }
}

/** Writes that somebody waits for: they are in the box already, but not yet late. */
const underway = new Map<string, Waiting>();
/** Who waits for the answer of which write. */
const callers = new Map<string, { resolve: (answer: unknown) => void; reject: (e: unknown) => void }>();

const sendingNow = () => [...underway.values()].sort(byOrder);
const late = () => state.waiting.some((w) => !w.refused);

async function reload() {
  const all = (await tryStore(stored())) ?? [];
  const waiting = all.filter((w) => !underway.has(w.key));
  const link = waiting.some((w) => !w.refused) ? "kept here" : underway.size > 0 ? "saving" : "saved";
  set({ waiting, sending: sendingNow(), link });
}

/** Posts a write. Its path is as it was when it was written: it may be older than the contract that the page knows. */
async function post(w: Waiting) {
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
  if (!confirms(answer, w)) throw new NoLink(elsewhere);
  return answer;
}

/** Locked out of the notebook says nothing about the write: it waits until this device is let in. */
const waits = (e: unknown) => e instanceof NoLink || (e instanceof Trouble && e.status === 401);

/** Files take long on a thin link: they wait for all other writes, and nothing waits for them. */
const isFile = (w: Waiting) => /^\/api\/(photos|bundles)\b/.test(w.path);

const lockOf = (name: string) => `page ${name}`;

/** Reports which other pages of this browser are open. Without locks it is not known, and none is taken to be. */
async function openPages() {
  const locks = (await navigator.locks?.query())?.held ?? [];
  return new Set(locks.map((l) => l.name));
}

/** Writes that are not posted yet, the oldest first: those in the box, and those that the box could not take. */
async function unsent(files: boolean) {
  const open = await openPages();
  const ours = (w: Waiting) => !w.page || w.page === page || !open.has(lockOf(w.page));
  const all = new Map([...((await tryStore(stored())) ?? []).filter(ours), ...underway.values()].map((w) => [w.key, w]));
  return [...all.values()].filter((w) => !w.refused && isFile(w) === files && (!underway.has(w.key) || callers.has(w.key))).sort(byOrder);
}

/** Posts one write and gives its answer to the one who waits for it. A lost link is thrown; the write stays in the box. */
async function deliver(w: Waiting) {
  let answer: unknown;
  try {
    answer = await post(w);
  } catch (e) {
    if (waits(e)) throw e;
    const caller = callers.get(w.key);
    callers.delete(w.key);
    if (caller) return caller.reject(e);
    const [refused, conflict] = e instanceof Trouble ? [e.whole, e.conflict] : [String(e), undefined];
    await tryStore(store({ ...w, refused, conflict }));
    return;
  }
  noteVersion(w, answer);
  await tryStore(remove(w.key));
  callers.get(w.key)?.resolve(answer);
  callers.delete(w.key);
}

/** Posts what is not sent yet in its order, one after the other, until nothing is left or the link is lost. */
async function drain(files: boolean) {
  for (;;) {
    const list = await unsent(files);
    if (list.length === 0) return;
    for (const w of list) await deliver(w);
  }
}

/** After the link was lost, nobody waits any longer: what is in the box goes out later, in its order. */
function release(e: unknown, files: boolean) {
  for (const [key, caller] of callers) {
    // A file waits for the others, but they do not wait for it.
    if (files && !isFile(underway.get(key) as Waiting)) continue;
    callers.delete(key);
    caller.reject(e);
  }
}

/** How long a page waits for another page that sends from the same box, in milliseconds; that one may be asleep. */
const longestTurn = 10_000;

/** Does something while no other page of this browser does the same. */
async function inTurn(name: string, does: () => Promise<void>) {
  if (!navigator.locks) return does();
  let began = false;
  const start = () => {
    began = true;
    return does();
  };
  try {
    await navigator.locks.request(name, { signal: AbortSignal.timeout(longestTurn) }, start);
  } catch (e) {
    if (began) throw e;
    await does();
  }
}

const running = new Map<boolean, Promise<void>>();

/** Runs one of the two queues, that of the files or that of all others, once at a time. */
function run(files: boolean): Promise<void> {
  const now =
    running.get(files) ??
    inTurn(files ? "outbox files" : "outbox", () => drain(files))
      .catch((e) => {
        release(e, files);
        throw e;
      })
      .finally(() => {
        running.delete(files);
        return reload();
      });
  running.set(files, now);
  return now;
}

const isCalled = (files: boolean) => [...callers.keys()].some((key) => isFile(underway.get(key) as Waiting) === files);

/** Sends all that is not sent yet. A later write never overtakes an earlier one, except that nothing waits for a file. */
async function flush() {
  // A write that was added when the queue was just through needs another run.
  for (const files of [false, true])
    do await run(files);
    while (isCalled(files));
}

/**
 * Sends a write, made from a version of what it changes (0 for a new thing). It is put into the box before it is
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
    page,
  };
  if (version !== undefined) w.version = followedVersion(w, [...state.waiting, ...underway.values()]);
  underway.set(w.key, w);
  set({ link: "saving", sending: sendingNow() });
  const kept = (await tryStore(append(w))) ?? false;
  if (kept) set({ keeps: true });
  const posted = new Promise<unknown>((resolve, reject) => callers.set(w.key, { resolve, reject }));
  flush().catch(() => undefined); // the lost link is told to each who waits
  try {
    const answer = (await posted) as Answer<P, M>;
    const shown = showWritten(w);
    // A form shows next what it kept. The log goes on at once: its row is there already, marked as on its way.
    if (!w.path.startsWith("/api/contacts/")) await shown;
    return answer;
  } catch (e) {
    // From now on nobody waits for its answer: any page may send it.
    if (e instanceof Trouble && (e.conflict || keepRefused?.(e)))
      await tryStore(store({ ...w, page: undefined, refused: e.whole, conflict: e.conflict }));
    else if (!waits(e)) await tryStore(remove(w.key));
    else if (kept) await tryStore(store({ ...w, page: undefined }));
    underway.delete(w.key);
    await reload();
    if (waits(e) && kept) return undefined;
    throw e;
  }
}

/** How long a write is shown as on its way while the screen reads what it changed, in milliseconds at most. */
const longestReading = 5000;

/** Reads everything again after a write; until then the write is shown as on its way. */
async function showWritten(w: Waiting) {
  await Promise.race([refresh(), new Promise((r) => setTimeout(r, longestReading))]);
  underway.delete(w.key);
  await reload();
}

/** Takes a refused write out of the box; what it was is returned, so that it can be put back. */
export async function forget(w: Waiting) {
  await tryStore(remove(w.key));
  await reload();
}

/** Puts a write back that was taken out. */
export async function putBack(w: Waiting) {
  await tryStore(store(w));
  await reload();
}

/** Sends a refused write again, with what was changed in it; a refusal is shown in its place. */
export async function again(w: Waiting, body: unknown, version = w.version) {
  await tryStore(store({ ...w, body, version, page: undefined, refused: undefined, conflict: undefined }));
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
  void navigator.locks?.request(lockOf(page), () => new Promise(() => undefined)); // held until this page is closed
  void look();
  addEventListener("online", () => {
    clearTimeout(next);
    pause = shortest;
    void look();
  });
}
