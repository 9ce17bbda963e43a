import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import { useSyncExternalStore } from "react";
import { v7 as uuid } from "uuid";
import { call, NoLink, refresh, Trouble } from "./client";

/** A write that was made while the link was down. Its id makes sending it twice harmless. */
export interface Waiting {
  key: string;
  at: string;
  method: string;
  path: string;
  body: unknown;
  label: string;
  refused?: string;
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

let state: { link: Link; waiting: Waiting[] } = { link: "saved", waiting: [] };
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
const underway = new Set<string>();

const late = () => state.waiting.some((w) => !w.refused);

const reload = async () => {
  const all = await (await box()).getAll("waiting");
  const waiting = all.filter((w) => !underway.has(w.key)).sort((a, b) => a.at.localeCompare(b.at));
  set({ waiting, link: waiting.some((w) => !w.refused) ? "kept here" : underway.size > 0 ? "saving" : "saved" });
};

/**
 * Send a write. It is put into the box before it is sent, so that neither a lost link nor a closed page
 * loses it; its id makes sending it twice harmless. When the link is down the answer is undefined, and it
 * is sent later. A refusal is thrown as Trouble, so that the form can show it at its field.
 */
export async function send<T>(method: string, path: string, body: unknown, label: string): Promise<T | undefined> {
  const key = uuid();
  underway.add(key);
  set({ link: "saving" });
  try {
    await (await box()).put("waiting", { key, at: new Date().toISOString(), method, path, body, label });
    // What waits goes first, so that a later write cannot overtake an earlier one.
    if (late()) await flush();
    const answer = await call<T>(method, path, body);
    await (await box()).delete("waiting", key);
    underway.delete(key);
    await reload();
    await refresh();
    return answer;
  } catch (e) {
    underway.delete(key);
    if (!(e instanceof NoLink)) await (await box()).delete("waiting", key);
    await reload();
    if (e instanceof NoLink) return undefined;
    throw e;
  }
}

let flushing = false;
async function flush() {
  if (flushing) return;
  flushing = true;
  try {
    for (const w of (await (await box()).getAll("waiting")).sort((a, b) => a.at.localeCompare(b.at))) {
      if (w.refused || underway.has(w.key)) continue;
      try {
        await call(w.method, w.path, w.body);
        await (await box()).delete("waiting", w.key);
      } catch (e) {
        if (e instanceof NoLink) throw e;
        await (await box()).put("waiting", { ...w, refused: e instanceof Trouble ? e.whole : String(e) });
      }
    }
  } finally {
    flushing = false;
    await reload();
  }
}

/** Forget a write that was refused, after the user has seen it. */
export async function forget(key: string) {
  await (await box()).delete("waiting", key);
  await reload();
}

/** Look every few seconds whether the link is back while something waits. */
export function startOutbox() {
  void reload().catch(() => set({ link: "saved" }));
  setInterval(() => {
    if (!late()) return;
    flush()
      .then(() => refresh())
      .catch(() => undefined);
  }, 3000);
}
