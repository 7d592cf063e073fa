/** Keeps a recording's undo steps over reloads, in the browser. */

import type { History, Work } from "./chainHistory";
import { sameSteps } from "../../chains/sameSteps";
import { editsOf, sameEdits } from "../../audio/cutTimes";

const MOST_KEPT = 60;
const keyOf = (recordingId: string) => `zesty-history-${recordingId}`;

interface Kept {
  now: Work;
  past: Work[];
  future: Work[];
}

/**
 * What was kept. Where the work has become another since (in another window, by a recipe applied to several), what
 * was kept is one undo away.
 */
export function keptHistory(recordingId: string, now: Work): Pick<History, "past" | "future"> {
  // This window's own steps first, then those of whichever wrote last.
  const kept = [sessionStorage, localStorage].flatMap((store) => read(store, recordingId));
  const same = kept.find((k) => sameSteps(k.now.steps, now.steps) && sameEdits(k.now.edits, now.edits));
  if (same) return { past: same.past, future: same.future };
  const [last] = kept;
  return last ? { past: [...last.past, last.now], future: [] } : { past: [], future: [] };
}

/** Work that an older version kept knows nothing of newer edits. */
const whole = (work: Work): Work => ({ ...work, edits: editsOf(work.edits) });

function read(store: Storage, recordingId: string): Kept[] {
  try {
    const kept = JSON.parse(store.getItem(keyOf(recordingId)) ?? "null") as Kept | null;
    return kept ? [{ now: whole(kept.now), past: kept.past.map(whole), future: kept.future.map(whole) }] : [];
  } catch {
    // What cannot be read is as good as nothing kept.
    return [];
  }
}

export function keepHistory(recordingId: string, { steps, edits, past, future }: History): void {
  const kept: Kept = { now: { steps, edits }, past: past.slice(-MOST_KEPT), future: future.slice(0, MOST_KEPT) };
  for (const store of [sessionStorage, localStorage]) {
    try {
      store.setItem(keyOf(recordingId), JSON.stringify(kept));
    } catch {
      // A full store costs undo over reloads, nothing else.
    }
  }
}
