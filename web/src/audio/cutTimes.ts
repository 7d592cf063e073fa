/** Times of a recording and times of what its cuts leave. */

export interface Cut {
  start_s: number;
  end_s: number;
}

/** What is done to a recording before its chain: spans left out, a channel chosen, tone added. */
export interface Edits {
  cuts: readonly Cut[];
  /** How mono is made of stereo; empty: it is not. */
  mono: string;
  /** Room tone before the first and behind the last sample that is left. */
  pad_start_s: number;
  pad_end_s: number;
}

/** What the times of a recording and of its result differ by. */
export type Shifts = Pick<Edits, "cuts" | "pad_start_s">;

export const noEdits: Edits = { cuts: [], mono: "", pad_start_s: 0, pad_end_s: 0 };

/** Just the edits of a recording or a run. */
export const editsOf = ({ cuts, mono, pad_start_s, pad_end_s }: Edits): Edits => ({ cuts, mono, pad_start_s, pad_end_s });

/** A stretch that is kept: where it starts in the original and in what is left. */
export interface Kept {
  startS: number;
  endS: number;
  leftS: number;
}

/** Stretches that the cuts (in order) leave of a recording. */
export function keptStretches({ cuts, pad_start_s }: Shifts, durationS: number): Kept[] {
  const kept: Kept[] = [];
  let at = 0;
  let leftS = pad_start_s;
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
export function toLeft(timeS: number, { cuts, pad_start_s }: Shifts): number {
  let gone = -pad_start_s;
  for (const cut of cuts) {
    if (timeS <= cut.start_s) break;
    gone += Math.min(timeS, cut.end_s) - cut.start_s;
  }
  return timeS - gone;
}

/** Time in the original, of a time in what is left; at a join, behind the cut. */
export function toOriginal(leftS: number, { cuts, pad_start_s }: Shifts): number {
  let timeS = Math.max(0, leftS - pad_start_s);
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

/** Cuts with one more, in order; those that touch become one. */
export function withCut(cuts: readonly Cut[], span: { startS: number; endS: number }): Cut[] {
  const all = [...cuts, { start_s: span.startS, end_s: span.endS }].sort((a, b) => a.start_s - b.start_s);
  const merged: Cut[] = [];
  for (const cut of all) {
    const last = merged.at(-1);
    if (last && cut.start_s <= last.end_s) last.end_s = Math.max(last.end_s, cut.end_s);
    else merged.push({ ...cut });
  }
  return merged;
}

/** Seconds left out in all. */
export const cutAwayS = (cuts: readonly Cut[]) => cuts.reduce((sum, c) => sum + c.end_s - c.start_s, 0);

const sameCuts = (a: readonly Cut[], b: readonly Cut[]) =>
  a.length === b.length && a.every((cut, i) => cut.start_s === b[i]?.start_s && cut.end_s === b[i].end_s);

export const sameEdits = (a: Edits, b: Edits) =>
  a.mono === b.mono && a.pad_start_s === b.pad_start_s && a.pad_end_s === b.pad_end_s && sameCuts(a.cuts, b.cuts);
