/** The passage that loops, remembered by the browser for each recording. */

import { useState } from "react";

import type { Recording } from "../../api/types";
import { toOriginal } from "../../audio/cutTimes";
import { checkedPassage, type PassageSpan } from "./checkedPassage";

const keyOf = (recordingId: string) => `zesty-passage-${recordingId}`;

function kept(recordingId: string): PassageSpan | null {
  try {
    const span = JSON.parse(localStorage.getItem(keyOf(recordingId)) ?? "null") as PassageSpan | null;
    return span && Number.isFinite(span.startS) && Number.isFinite(span.endS) ? span : null;
  } catch {
    return null;
  }
}

/** In times of the recording; the proposed one until another is chosen. */
export function usePassage(recording: Recording): [PassageSpan | null, (passage: PassageSpan) => void] {
  const durationS = recording.duration_s ?? 0;
  const [chosen, setChosen] = useState(() => kept(recording.id));
  const proposed = recording.proposed_passage;
  const passage = chosen ?? (proposed && { startS: toOriginal(proposed.start_s, recording), endS: toOriginal(proposed.end_s, recording) });
  const choose = (next: PassageSpan) => {
    setChosen(next);
    try {
      localStorage.setItem(keyOf(recording.id), JSON.stringify(next));
    } catch {
      // Then it is proposed anew next time.
    }
  };
  return [passage && checkedPassage(passage, durationS, "both"), choose];
}
