/** Keeps a recording's undo steps over reloads, in the browser. */

import type { History, Work } from "./chainHistory";
import { sameSteps } from "../../chains/sameSteps";
import { sameEdits } from "../../audio/cutTimes";

const MOST_KEPT = 60;
const keyOf = (recordingId: string) => `zesty-history-${recordingId}`;

interface Kept {
  now: Work;
  past: Work[];
  future: Work[];
}

/** What was kept, when it belongs to the work as it is now; else no steps. */
export function keptHistory(recordingId: string, now: Work): Pick<History, "past" | "future"> {
  try {
    const kept = JSON.parse(localStorage.getItem(keyOf(recordingId)) ?? "null") as Kept | null;
    if (kept && sameSteps(kept.now.steps, now.steps) && sameEdits(kept.now.edits, now.edits)) {
      return { past: kept.past, future: kept.future };
    }
  } catch {
    // What cannot be read is as good as nothing kept.
  }
  return { past: [], future: [] };
}

export function keepHistory(recordingId: string, { steps, edits, past, future }: History): void {
  const kept: Kept = { now: { steps, edits }, past: past.slice(-MOST_KEPT), future: future.slice(0, MOST_KEPT) };
  try {
    localStorage.setItem(keyOf(recordingId), JSON.stringify(kept));
  } catch {
    // A full store costs undo over reloads, nothing else.
  }
}
