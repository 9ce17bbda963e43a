import { useLayoutEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";

export type Drawing = Schemas["Drawing"];
export type Line = Schemas["Line"];
type P = [number, number];

/** The width in pixels that there is, so that lettering keeps its size on every screen. */
export function useWidth(usual: number) {
  const box = useRef<HTMLElement>(null);
  const [width, set] = useState(usual);
  // Before it is painted: a picture that finds its width afterwards moves what stands below it.
  useLayoutEffect(() => {
    const el = box.current;
    if (!el) return;
    const measure = () => set(Math.max(280, Math.round(el.clientWidth)));
    measure();
    const see = new ResizeObserver(measure);
    see.observe(el);
    return () => see.disconnect();
  }, []);
  return [box, width] as const;
}

/** How a drawing in metres lies on a picture so many pixels wide: from the side over its ground, or from above. */
export interface Scene {
  above: boolean;
  size: number;
  height: number;
  scale: number;
  ground: number;
  at: (p: number[]) => P;
}

/** Pixels by which a picture grows. */
const step = 60;

export function sceneOf(view: string | undefined, lines: Line[], size: number): Scene {
  const above = view === "top";
  const flat = (p: number[]): P => [p[0] ?? 0, above ? -(p[1] ?? 0) : (p[2] ?? 0)];
  const shown = above ? lines.filter((l) => l.role !== "pole") : lines;
  const xs = shown.flatMap((l) => [flat(l.from)[0], flat(l.to)[0]]);
  const ys = shown.flatMap((l) => [flat(l.from)[1], flat(l.to)[1]]);
  const [x0, x1] = [Math.min(...xs), Math.max(...xs)];
  const low = above ? Math.min(...ys) : 0;
  const top = above ? Math.max(...ys) : Math.max(...ys, 1.5);
  const tall = Math.min(320, Math.max(220, size * 0.5));
  const scale = Math.min((size - 84) / Math.max(x1 - x0, 1), tall / Math.max(top - low, 0.5));
  const left = (size - (x1 - x0) * scale) / 2;
  // In whole steps: a wire a little longer or a pole a little lower moves nothing below the picture.
  const height = Math.ceil(((top - low) * scale + 82) / step) * step;
  const ground = height - 46;
  const at = (p: number[]): P => [left + (flat(p)[0] - x0) * scale, ground - (flat(p)[1] - low) * scale];
  return { above, size, height, scale, ground, at };
}
