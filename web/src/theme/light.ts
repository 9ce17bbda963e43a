import { useSyncExternalStore } from "react";

export const lights = ["paper", "sun", "dusk"] as const;
export type Light = (typeof lights)[number];

/** What they are called on the screen. */
export const lightNames: Record<Light, string> = { paper: "light", sun: "high contrast", dusk: "dark" };

const listeners = new Set<() => void>();
const stored = (): Light => lights.find((l) => l === localStorage.getItem("light")) ?? "paper";
let light = stored();
const show = () => {
  document.documentElement.dataset.light = light;
};
show();

export function setLight(next: Light) {
  light = next;
  localStorage.setItem("light", next);
  show();
  for (const l of listeners) l();
}

export const nextLight = () => setLight(lights[(lights.indexOf(light) + 1) % lights.length] ?? "paper");

/** The light that the pages are drawn in. */
export const useLight = () =>
  useSyncExternalStore(
    (l) => {
      listeners.add(l);
      return () => listeners.delete(l);
    },
    () => light,
  );
