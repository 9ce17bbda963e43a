import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import type { Schemas } from "./client";

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
  /** The page whose form waits for the answer: while it is open, no other page sends this write. */
  page?: string;
}

interface Box extends DBSchema {
  waiting: { key: string; value: Waiting };
}

let db: Promise<IDBPDatabase<Box>> | undefined;
const open = () => {
  db ??= openDB<Box>("outbox", 1, { upgrade: (d) => void d.createObjectStore("waiting", { keyPath: "key" }) });
  return db;
};

/** Compares two writes by their order. */
export const byOrder = (a: Waiting, b: Waiting) => (a.order ?? 0) - (b.order ?? 0) || a.at.localeCompare(b.at);

/** The highest order that this page gave; other pages may have given a higher one, which the box knows. */
let lastOrder = 0;

/** Stores a new write behind all others and gives it its order. Fails where the browser can store nothing. */
export async function append(w: Waiting) {
  w.order = ++lastOrder;
  const tx = (await open()).transaction("waiting", "readwrite");
  const stored = await tx.store.getAll();
  lastOrder = Math.max(lastOrder, ...stored.map((x) => (x.order ?? 0) + 1));
  w.order = lastOrder;
  await Promise.all([tx.store.put(w), tx.done]);
  return true;
}

/** Lists what is stored, the oldest first. */
export const stored = async () => (await (await open()).getAll("waiting")).sort(byOrder);

/** Stores a write again, as it is now. */
export const store = async (w: Waiting) => void (await (await open()).put("waiting", w));

/** Deletes a write; one that was never stored is fine. */
export const remove = async (key: string) => (await open()).delete("waiting", key);
