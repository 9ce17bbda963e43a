import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import { useSyncExternalStore } from "react";
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

const reload = async () => {
  const waiting = (await (await box()).getAll("waiting")).sort((a, b) => a.at.localeCompare(b.at));
  set({ waiting, link: waiting.some((w) => !w.refused) ? "kept here" : "saved" });
};

/**
 * Send a write. When the link is down it is kept here and sent later, and the answer is undefined.
 * A refusal is thrown as Trouble, so that the form can show it at its field.
 */
export async function send<T>(method: string, path: string, body: unknown, label: string): Promise<T | undefined> {
  set({ link: "saving" });
  try {
    // What waits goes first, so that a later write cannot overtake an earlier one.
    if (state.waiting.some((w) => !w.refused)) await flush();
    const answer = await call<T>(method, path, body);
    set({ link: state.waiting.some((w) => !w.refused) ? "kept here" : "saved" });
    await refresh();
    return answer;
  } catch (e) {
    if (e instanceof NoLink) {
      await (await box()).put("waiting", { key: path, at: new Date().toISOString(), method, path, body, label });
      await reload();
      return undefined;
    }
    set({ link: state.waiting.some((w) => !w.refused) ? "kept here" : "saved" });
    throw e;
  }
}

let flushing = false;
async function flush() {
  if (flushing) return;
  flushing = true;
  try {
    for (const w of (await (await box()).getAll("waiting")).sort((a, b) => a.at.localeCompare(b.at))) {
      if (w.refused) continue;
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
    if (!state.waiting.some((w) => !w.refused)) return;
    flush()
      .then(() => refresh())
      .catch(() => undefined);
  }, 3000);
}
