import { useSyncExternalStore } from "react";
import { page, refresh } from "./client";

/** Whether the notebook's server is reached just now, as the link for live changes shows. */
let away = false;
const listeners = new Set<() => void>();
const set = (next: boolean) => {
  if (away === next) return;
  away = next;
  for (const l of listeners) l();
};

export const useAway = () =>
  useSyncExternalStore(
    (l) => {
      listeners.add(l);
      return () => listeners.delete(l);
    },
    () => away,
  );

/** A change that another page or device made: its path, as it was written. */
export type Elsewhere = CustomEvent<{ path: string; id: string }>;

let timer: ReturnType<typeof setTimeout> | undefined;
/** Reads anew what is shown, once for changes that come close together. */
function soon() {
  clearTimeout(timer);
  timer = setTimeout(() => void refresh(), 150);
}

function changed(data: string) {
  const e = JSON.parse(data) as { path: string; page?: string };
  if (e.page === page) return;
  soon();
  const id = e.path.match(/[0-9a-f]{8}-[0-9a-f-]{27}/)?.[0] ?? "";
  dispatchEvent(new CustomEvent("changed-elsewhere", { detail: { path: e.path, id } }));
}

/**
 * Listens for what other pages and devices change. The browser comes back by itself when the link was lost, and then gets what it
 * missed.
 */
export function startLive() {
  const source = new EventSource("/api/events");
  let began = false;
  source.addEventListener("begin", () => {
    set(false);
    if (began) soon(); // after a break without a number of its own
    began = true;
  });
  source.addEventListener("all", () => {
    set(false);
    soon();
  });
  source.addEventListener("change", (e) => changed((e as MessageEvent<string>).data));
  source.addEventListener("open", () => set(false));
  source.addEventListener("error", () => {
    set(true);
    // One that was refused, as before this device was let in, does not come back by itself.
    if (source.readyState === EventSource.CLOSED) setTimeout(startLive, 5000);
  });
}
