import { hashKey } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import type { FieldValues, Path, UseFormReturn } from "react-hook-form";
import { Trouble } from "../api/client";

const prefix = "draft:";

export function readDraft<T>(key: string): T | undefined {
  try {
    const text = localStorage.getItem(prefix + key);
    return text === null ? undefined : (JSON.parse(text) as T);
  } catch {
    return undefined;
  }
}

/** Forget every draft of a thing, after what is kept of it was chosen elsewhere; open forms show what is there. */
export function dropDraftsOf(id: string) {
  for (const key of Object.keys(localStorage)) if (key.startsWith(prefix) && (id === "" || key.includes(id))) localStorage.removeItem(key);
  dispatchEvent(new Event("drafts-dropped"));
}

/** Whether something is typed of a thing and not saved. The line of the log is no form of its outing. */
export const hasDraftOf = (id: string) =>
  Object.keys(localStorage).some((key) => key.startsWith(prefix) && key.includes(id) && !key.startsWith(`${prefix}line:`));

export const dropDraft = (key: string) => localStorage.removeItem(prefix + key);
export const keepDraft = (key: string, v: unknown) => localStorage.setItem(prefix + key, JSON.stringify(v));

/** A value that outlives the page: what was typed comes back after a reload. */
export function useDraft<T>(key: string, initial: T): [T, (v: T) => void, () => void] {
  const [held, setHeld] = useState({ key, value: readDraft<T>(key) ?? initial });
  const value = held.key === key ? held.value : (readDraft<T>(key) ?? initial);
  const put = useCallback(
    (v: T) => {
      keepDraft(key, v);
      setHeld({ key, value: v });
    },
    [key],
  );
  const clear = useCallback(() => {
    dropDraft(key);
    setHeld({ key, value: initial });
  }, [key, initial]);
  return [value, put, clear];
}

/**
 * Keep a form's values as a draft under a key, and bring them back. A form that nobody typed into follows what is kept;
 * what was typed stays, with the version that it was made from, so that a write cannot pass for one of a newer version.
 * Returns a way to forget the draft once it is kept, as a version, and the version that the form stands on.
 */
export function useFormDraft<T extends FieldValues>(
  form: UseFormReturn<T>,
  key: string,
  from: T | undefined,
  version = 0,
): { forget: (kept?: number) => void; base: () => number } {
  const ready = useRef("");
  const base = useRef(0);
  // Another page of this browser shares the draft, and drops it when it keeps its own.
  const typed = useRef(false);
  // What the form was filled with last: without a draft and with nothing new it is left as it stands.
  const filled = useRef<{ key: string; from?: T; version: number }>({ key: "", version: 0 });
  const [dropped, setDropped] = useState(0);
  const { reset, watch, getValues } = form;
  // biome-ignore lint/correctness/useExhaustiveDependencies: dropped drafts show what is there
  useEffect(() => {
    if (from === undefined) return;
    const draft = readDraft<T>(key);
    if (ready.current === key && (draft !== undefined || typed.current)) return;
    ready.current = key;
    typed.current = false;
    const was = filled.current;
    if (draft === undefined && was.key === key && was.from === from && was.version === version) return;
    filled.current = { key, from, version };
    base.current = draft === undefined ? version : (readDraft<number>(`version:${key}`) ?? version);
    const next = { ...from, ...draft } as Record<string, unknown>;
    // A field that is on the screen and not in the new values is emptied: left out, it would keep its text.
    for (const [name, was] of Object.entries(getValues()))
      if (was && typeof was === "object" && !Array.isArray(was))
        next[name] = { ...Object.fromEntries(Object.keys(was).map((k) => [k, ""])), ...(next[name] as object) };
    reset(next as T);
  }, [from, version, key, reset, getValues, dropped]);
  useEffect(() => {
    const sub = watch((v, info) => {
      // Only what the user typed makes a draft; filling the form does not.
      if (info.name === undefined || ready.current !== key) return;
      typed.current = true;
      keepDraft(key, v);
      keepDraft(`version:${key}`, base.current);
    });
    return () => sub.unsubscribe();
  }, [watch, key]);
  useEffect(() => {
    const fresh = () => {
      ready.current = "";
      filled.current = { key: "", version: 0 };
      setDropped((n) => n + 1);
    };
    addEventListener("drafts-dropped", fresh);
    return () => removeEventListener("drafts-dropped", fresh);
  }, []);
  const now = useRef({ from, version });
  now.current = { from, version };
  const forget = (kept?: number) => {
    typed.current = false;
    dropDraft(key);
    dropDraft(`version:${key}`);
    // The form stands on its own write from here on; what was typed behind it while it was on its way stays.
    if (kept !== undefined) base.current = kept;
    filled.current = { key, ...now.current };
  };
  return { forget, base: () => base.current };
}

/** Show a refusal at its fields; what has no field is returned. */
export function showTrouble<T extends FieldValues>(
  form: UseFormReturn<T>,
  e: unknown,
  rename: (path: string) => string = (p) => p,
): string {
  if (!(e instanceof Trouble)) return e instanceof Error ? e.message : String(e);
  const left: string[] = [];
  let first = true;
  for (const f of e.fields) {
    const name = rename(f.path) as Path<T>;
    if (document.getElementsByName(name).length > 0) {
      form.setError(name, { message: f.detail }, { shouldFocus: first });
      first = false;
    } else left.push(f.detail);
  }
  return left.length > 0 || e.fields.length === 0 ? [e.message, ...left].join(" ") : e.message;
}

/** A copy of a value that stays the same object until its content is another: what hangs on it is not begun again for nothing. */
export function useSteady<T>(value: T): T {
  const hash = hashKey([value]);
  const held = useRef<{ hash: string; value: T }>(undefined);
  if (held.current?.hash !== hash) held.current = { hash, value: structuredClone(value) };
  return held.current.value;
}

/** A value once it has stood for a while. */
export function useLater<T>(value: T, ms: number): T {
  const [v, set] = useState(value);
  useEffect(() => {
    const t = setTimeout(() => set(value), ms);
    return () => clearTimeout(t);
  }, [value, ms]);
  return v;
}
