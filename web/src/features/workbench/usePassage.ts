/** The passage that loops, remembered by the browser for each recording. */

import { useState } from "react";

import type { Recording } from "../../api/types";
import { toOriginal } from "../../audio/cutTimes";
import type { TimeSpan } from "./mirrorView";
import { checkedPassage } from "./PassageMark";

const keyOf = (recordingId: string) => `zesty-passage-${recordingId}`;

function kept(recordingId: string): TimeSpan | null {
  try {
    const span = JSON.parse(localStorage.getItem(keyOf(recordingId)) ?? "null") as TimeSpan | null;
    return span && Number.isFinite(span.startS) && Number.isFinite(span.endS) ? span : null;
  } catch {
    return null;
  }
}

/** In times of the recording; the proposed one until another is chosen. */
export function usePassage(recording: Recording): [TimeSpan | null, (passage: TimeSpan) => void] {
  const durationS = recording.duration_s ?? 0;
  const [chosen, setChosen] = useState(() => kept(recording.id));
  const proposed = recording.proposed_passage;
  const passage = chosen ?? (proposed && { startS: toOriginal(proposed.start_s, recording), endS: toOriginal(proposed.end_s, recording) });
  const choose = (next: TimeSpan) => {
    setChosen(next);
    try {
      localStorage.setItem(keyOf(recording.id), JSON.stringify(next));
    } catch {
      // Then it is proposed anew next time.
    }
  };
  return [passage && checkedPassage(passage, durationS, "both"), choose];
}
