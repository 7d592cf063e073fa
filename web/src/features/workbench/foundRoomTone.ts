import type { FoundRoomTone, Recording } from "../../api/types";
import { toOriginal } from "../../audio/cutTimes";
import type { TimeSpan } from "./mirrorView";

/** Quiet stretches found in a recording, the longest first, in times of the recording as it came. */
export function foundHere(recording: Recording): (FoundRoomTone & TimeSpan)[] {
  return (recording.measures?.room_tones ?? []).map((f) => ({
    ...f, startS: toOriginal(f.start_s, recording), endS: toOriginal(f.end_s, recording),
  }));
}

/** Whether noise is learned from one found, where none is marked; recordings measured by an older version have it in the first only. */
export const isLearnedFrom = (found: FoundRoomTone, index: number): boolean => found.in_use ?? index === 0;

export const learnedFrom = (recording: Recording): TimeSpan[] =>
  foundHere(recording).filter(isLearnedFrom).map(({ startS, endS }) => ({ startS, endS }));

/** Whether somebody speaks, with more than digital silence between the words. */
export function isHeardUnderWords({ measures }: Recording): boolean {
  if (!measures || measures.voice_level_dbfs === null) return false;
  return measures.noise_floor_dbfs !== null || measures.digital_silence_share === 0;
}
