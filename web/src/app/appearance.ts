/** Light, dark, or as the system has it: chosen on Settings, kept in this browser. */

import { useSyncExternalStore } from "react";

export const APPEARANCES = ["system", "light", "dark"] as const;
export type Appearance = (typeof APPEARANCES)[number];

const KEY = "zesty-appearance";
const listeners = new Set<() => void>();
/** Where nothing can be stored it holds until the page closes. */
let chosen: Appearance | null = null;

function read(): Appearance {
  if (chosen) return chosen;
  let kept: string | null = null;
  try {
    kept = localStorage.getItem(KEY);
  } catch {
    // Storage is not to be had.
  }
  return APPEARANCES.find((a) => a === kept) ?? "system";
}

/** Show every page so from now on. */
export function chooseAppearance(appearance: Appearance): void {
  chosen = appearance;
  try {
    localStorage.setItem(KEY, appearance);
  } catch {
    // Storage is not to be had.
  }
  for (const tell of listeners) tell();
}

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

/** What is chosen; whoever asks is drawn anew when it changes. */
export const useAppearance = (): Appearance => useSyncExternalStore(subscribe, read);
