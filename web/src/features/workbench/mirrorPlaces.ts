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
