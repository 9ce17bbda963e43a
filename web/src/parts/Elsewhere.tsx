import { useEffect } from "react";
import type { Elsewhere } from "../api/live";
import { hasDraftOf } from "./draft";
import { say } from "./Undo";

/** Says when another device changes a thing that has unsaved entries here. */
export function ChangedElsewhere() {
  useEffect(() => {
    const heard = (e: Event) => {
      const { id } = (e as Elsewhere).detail;
      if (id && hasDraftOf(id)) say("This was changed on another device just now. What you typed stays: both are shown when you save.");
    };
    addEventListener("changed-elsewhere", heard);
    return () => removeEventListener("changed-elsewhere", heard);
  }, []);
  return null;
}
