/** Times of a recording and times of what its cuts leave. */

export interface Cut {
  start_s: number;
  end_s: number;
}

/** A stretch that is kept: where it starts in the original and in what is left. */
export interface Kept {
  startS: number;
  endS: number;
  leftS: number;
}

/** Stretches that the cuts (in order) leave of a recording. */
export function keptStretches(cuts: readonly Cut[], durationS: number): Kept[] {
  const kept: Kept[] = [];
  let at = 0;
  let leftS = 0;
  const keep = (endS: number) => {
    if (endS <= at) return;
    kept.push({ startS: at, endS, leftS });
    leftS += endS - at;
  };
  for (const cut of cuts) {
    keep(cut.start_s);
    at = Math.max(at, cut.end_s);
  }
  keep(durationS);
  return kept;
}

/** Time in what is left, of a time in the original; inside a cut, the join. */
export function toLeft(timeS: number, cuts: readonly Cut[]): number {
  let gone = 0;
  for (const cut of cuts) {
    if (timeS <= cut.start_s) break;
    gone += Math.min(timeS, cut.end_s) - cut.start_s;
  }
  return timeS - gone;
}

/** Time in the original, of a time in what is left; at a join, behind the cut. */
export function toOriginal(leftS: number, cuts: readonly Cut[]): number {
  let timeS = leftS;
  for (const cut of cuts) {
    if (timeS < cut.start_s) break;
    timeS += cut.end_s - cut.start_s;
  }
  return timeS;
}

/** Where a time inside a cut goes on; the time itself outside of cuts. */
export function pastCuts(timeS: number, cuts: readonly Cut[]): number {
  return cuts.find((cut) => timeS >= cut.start_s && timeS < cut.end_s)?.end_s ?? timeS;
}

/** Seconds left out in all. */
export const cutAwayS = (cuts: readonly Cut[]) => cuts.reduce((sum, c) => sum + c.end_s - c.start_s, 0);

export const sameCuts = (a: readonly Cut[], b: readonly Cut[]) =>
  a.length === b.length && a.every((cut, i) => cut.start_s === b[i]?.start_s && cut.end_s === b[i].end_s);
