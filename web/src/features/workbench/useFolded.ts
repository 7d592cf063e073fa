/** Whether the mirror is folded: by the kind of step that is open, as it was left last. */

import { useState } from "react";

const KEY = "zesty-mirror-folded";
/** Steps whose picture wants the room. */
const FOLDED_AT_FIRST: Record<string, boolean> = { eq: true, noise_reduction: true, de_esser: true };

function kept(): Record<string, boolean> {
  try {
    return { ...FOLDED_AT_FIRST, ...(JSON.parse(localStorage.getItem(KEY) ?? "{}") as Record<string, boolean>) };
  } catch {
    return FOLDED_AT_FIRST;
  }
}

export function useFolded(stepType: string): [boolean, (folded: boolean) => void] {
  const [all, setAll] = useState(kept);
  const fold = (folded: boolean) => {
    const next = { ...all, [stepType]: folded };
    setAll(next);
    try {
      localStorage.setItem(KEY, JSON.stringify(next));
    } catch {
      // Then it is forgotten when the page closes.
    }
  };
  return [all[stepType] ?? false, fold];
}
