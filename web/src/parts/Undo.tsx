import { lazy, Suspense, useSyncExternalStore } from "react";
import { type Schemas, Trouble } from "../api/client";
import { send } from "../api/outbox";

interface Said {
  text: string;
  undo?: () => Promise<unknown>;
}

let said: Said | undefined;
const listeners = new Set<() => void>();
function put(next: Said | undefined) {
  said = next;
  for (const l of listeners) l();
}

/** Say what was done, with a way back. */
export const say = (text: string, undo?: () => Promise<unknown>) => put({ text, undo });

/** Bring a kept thing back to a version; 0 removes it. The step is made from a version, like every write. */
export const setVersion = (kind: Schemas["VersionInput"]["kind"], id: string, to: number, version: number) =>
  send("post", "/api/versions", {}, { kind, id, to, version }, `undo of a ${kind}`);

export const failed = (e: unknown) => put({ text: `Not done: ${e instanceof Trouble ? e.whole : String(e)}` });

/** Take a kept thing away, say so, and offer the way back; a refusal is said too. */
export async function remove(kind: Parameters<typeof setVersion>[0], id: string, version: number, text: string) {
  try {
    await setVersion(kind, id, 0, version);
    say(text, () => setVersion(kind, id, version, version + 1));
  } catch (e) {
    failed(e);
  }
}

interface Bar {
  text: string;
  onUndo?: () => void;
  onClose: () => void;
}

/** The same without the component library: a lost link may keep that from being loaded. */
function PlainBar({ text, onUndo, onClose }: Bar) {
  return (
    <div className="note" role="status">
      {text}{" "}
      <button type="button" className="linkbtn" onClick={onUndo ?? onClose}>
        {onUndo ? "Undo" : "Close"}
      </button>
    </div>
  );
}

const SaidBar = lazy(() => import("./SaidBar").catch(() => ({ default: PlainBar })));

export function Undo() {
  const now = useSyncExternalStore(
    (l) => {
      listeners.add(l);
      return () => listeners.delete(l);
    },
    () => said,
  );
  if (!now) return null;
  const { text, undo } = now;
  const back = () => {
    put(undefined);
    undo?.().catch(failed);
  };
  return (
    <Suspense>
      <SaidBar text={text} onUndo={undo && back} onClose={() => put(undefined)} />
    </Suspense>
  );
}
