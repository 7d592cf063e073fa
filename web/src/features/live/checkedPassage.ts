/** What a passage may be. */

export interface PassageSpan {
  startS: number;
  endS: number;
}

/** Which of its edges is moved, or both. */
export type Held = "startS" | "endS" | "both";

const LEAST_S = 2;
const MOST_S = 30;

/** A passage within what is allowed: not too short, not too long, inside of the recording. */
export function checkedPassage(passage: PassageSpan, durationS: number, held: Held): PassageSpan {
  const lengthS = Math.min(durationS, Math.min(MOST_S, Math.max(Math.min(LEAST_S, durationS), passage.endS - passage.startS)));
  const startS = held === "startS" ? passage.endS - lengthS : passage.startS;
  const from = Math.min(Math.max(0, startS), durationS - lengthS);
  return { startS: from, endS: from + lengthS };
}
