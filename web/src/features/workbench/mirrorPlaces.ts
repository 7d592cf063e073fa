/** Where things lie on the mirror. */

import type { TimeSpan } from "./mirrorView";

export const AXIS = 22;
const HEIGHT = 164;
/** Where the picture of a step wants the room. */
const FOLDED = 80;

export interface Placing {
  width: number;
  height: number;
  /** Height of one side. */
  half: number;
  /** Pixels from the left edge of a time. */
  x: (timeS: number) => number;
}

export const placing = (view: TimeSpan, width: number, folded = false): Placing => ({
  width,
  height: folded ? FOLDED : HEIGHT,
  half: ((folded ? FOLDED : HEIGHT) - AXIS) / 2,
  x: (timeS) => ((timeS - view.startS) / (view.endS - view.startS)) * width,
});

/** A stretch from left to right. */
export interface Pixels {
  from: number;
  to: number;
}

const PASSAGE_TAG = 106, GRIPS = 24, ROOM_TONE_TAG = 72, HALF_MARK = 24;

/** Where the passage is named, in its middle between its grips. */
export function passageTag(passage: TimeSpan, place: Placing): Pixels {
  const [left, right] = [place.x(passage.startS), place.x(passage.endS)];
  const half = Math.max(0, Math.min(PASSAGE_TAG, right - left - GRIPS)) / 2;
  return { from: (left + right) / 2 - half, to: (left + right) / 2 + half };
}

/** Room tone on the mirror: marked, or found without help. */
export type ShownRoomTone = TimeSpan & { found: boolean };

/** Where the room tone is named: all over it, or further where it is too short. */
export function roomToneTag(tone: TimeSpan, place: Placing): Pixels {
  const from = place.x(tone.startS);
  return { from, to: Math.max(from + ROOM_TONE_TAG, place.x(tone.endS)) };
}

const UNDO_APART = 28;

/** Cuts that are in view, in order; those with room for it carry an undo button. */
export function shownCuts<T extends { start_s: number; end_s: number }>(cuts: readonly T[], place: Placing): { cut: T; hasUndo: boolean }[] {
  let last = -Infinity;
  return cuts.flatMap((cut) => {
    const [left, right] = [place.x(cut.start_s), place.x(cut.end_s)];
    if (right < 0 || left > place.width) return [];
    const middle = (left + right) / 2;
    const hasUndo = middle - last >= UNDO_APART;
    if (hasUndo) last = middle;
    return [{ cut, hasUndo }];
  });
}

/** Marks of the time axis of which no tag would hide a part. */
export const clearOf = (tags: readonly Pixels[], atS: readonly number[], place: Placing): number[] =>
  atS.filter((mark) => tags.every(({ from, to }) => place.x(mark) + HALF_MARK < from || place.x(mark) - HALF_MARK > to));
