/** Where things lie on the mirror. */

import type { TimeSpan } from "./mirrorView";

export const HEIGHT = 164;
export const AXIS = 22;
export const HALF = (HEIGHT - AXIS) / 2;

export interface Placing {
  width: number;
  /** Pixels from the left edge of a time. */
  x: (timeS: number) => number;
}

export const placing = (view: TimeSpan, width: number): Placing => ({
  width,
  x: (timeS) => ((timeS - view.startS) / (view.endS - view.startS)) * width,
});
