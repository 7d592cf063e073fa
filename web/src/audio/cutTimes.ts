/** Times of a recording and times of what is heard of it: cuts shorten it, inserts make it longer. */

export interface Cut {
  start_s: number;
  end_s: number;
}

/** Room tone or silence put in at a place of the original. */
export interface Insert {
  at_s: number;
  length_s: number;
  kind: "room_tone" | "silence";
}

/** A named place of the original. */
export interface Marker {
  at_s: number;
  name: string;
}

/** A stretch of one speaker in the original; speakers count from 0. */
export interface Turn {
  start_s: number;
  end_s: number;
  speaker: number;
}

/** Who speaks when. */
export interface Speakers {
  names: string[];
  turns: Turn[];
}

/** A stretch of the original, and the type of the step that it concerns. */
export interface RepairSpan {
  type: string;
  start_s: number;
  end_s: number;
}

/** Events that repairs leave alone, and others that they mend although they did not find them. */
export interface Repairs {
  refused: RepairSpan[];
  added: RepairSpan[];
}

/** What is done to a recording before its chain: spans left out, sound put in, a channel chosen, tone added, fades; markers. */
export interface Edits {
  cuts: readonly Cut[];
  inserts: readonly Insert[];
  /** How mono is made of stereo; empty: it is not. */
  mono: string;
  /** Room tone before the first and behind the last sample that is left. */
  pad_start_s: number;
  pad_end_s: number;
  fade_in_s: number;
  fade_out_s: number;
  /** They change no sound. */
  markers: readonly Marker[];
  /** Who speaks when, where a person has settled it. */
  speakers: Speakers | null;
  /** What a person has refused or added; null for nothing. */
  repairs: Repairs | null;
}

/** What the times of a recording and of its result differ by. */
export type Shifts = Pick<Edits, "cuts" | "inserts" | "pad_start_s">;

export const noEdits: Edits = { cuts: [], inserts: [], mono: "", pad_start_s: 0, pad_end_s: 0, fade_in_s: 0, fade_out_s: 0, markers: [], speakers: null, repairs: null };

/** Just the edits of a recording or a run; what an older version did not know stays out. */
export function editsOf(of: Partial<Edits>): Edits {
  const { cuts, inserts, mono, pad_start_s, pad_end_s, fade_in_s, fade_out_s, markers, speakers, repairs } = { ...noEdits, ...of };
  return { cuts, inserts, mono, pad_start_s, pad_end_s, fade_in_s, fade_out_s, markers, speakers, repairs };
}

/** Inserts in order. One that lies inside a cut goes with it; at the edge of a cut it stays. */
export const activeInserts = ({ cuts, inserts }: Pick<Edits, "cuts" | "inserts">): Insert[] =>
  inserts.filter(({ at_s }) => !cuts.some((cut) => cut.start_s < at_s && at_s < cut.end_s)).sort((a, b) => a.at_s - b.at_s);

/** A stretch that is kept: where it starts in the original and in what is left. */
export interface Kept {
  startS: number;
  endS: number;
  leftS: number;
}

/** Stretches that the edits (cuts in order) leave of a recording. */
export function keptStretches(shifts: Shifts, durationS: number): Kept[] {
  const kept: Kept[] = [];
  const inserts = activeInserts(shifts);
  let at = 0;
  let leftS = shifts.pad_start_s;
  const keep = (endS: number) => {
    if (endS <= at) return;
    kept.push({ startS: at, endS, leftS });
    leftS += endS - at;
    at = endS;
  };
  /** Up to a place, with what is put in before it. */
  const goTo = (endS: number) => {
    while (inserts[0] && inserts[0].at_s <= endS) {
      const { at_s, length_s } = inserts[0];
      inserts.shift();
      keep(at_s);
      leftS += length_s;
    }
    keep(endS);
  };
  for (const cut of shifts.cuts) {
    goTo(cut.start_s);
    at = Math.max(at, cut.end_s);
  }
  goTo(durationS);
  return kept;
}

/** How much of the recording before a time the cuts leave. */
function leftBefore(timeS: number, cuts: readonly Cut[]): number {
  let gone = 0;
  for (const cut of cuts) {
    if (timeS <= cut.start_s) break;
    gone += Math.min(timeS, cut.end_s) - cut.start_s;
  }
  return timeS - gone;
}

/** Time in what is heard, of a time in the original; inside a cut, the join; at an insert, its beginning. */
export function toLeft(timeS: number, shifts: Shifts): number {
  const putIn = activeInserts(shifts).reduce((sum, insert) => sum + (insert.at_s < timeS ? insert.length_s : 0), 0);
  return shifts.pad_start_s + leftBefore(timeS, shifts.cuts) + putIn;
}

/** Time in the original, of a time in what is heard; at a join, behind the cut; in an insert, its place. */
export function toOriginal(leftS: number, shifts: Shifts): number {
  let timeS = Math.max(0, leftS - shifts.pad_start_s);
  for (const insert of activeInserts(shifts)) {
    const placeS = leftBefore(insert.at_s, shifts.cuts);
    if (timeS <= placeS) break;
    timeS = Math.max(placeS, timeS - insert.length_s);
  }
  for (const cut of shifts.cuts) {
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

/** Length of what is heard. */
export const editedDurationS = (edits: Edits, durationS: number) =>
  edits.pad_start_s + durationS - cutAwayS(edits.cuts) + edits.pad_end_s + activeInserts(edits).reduce((sum, i) => sum + i.length_s, 0);

function sameList<T extends object>(a: readonly T[], b: readonly T[], fields: readonly (keyof T)[]): boolean {
  return a.length === b.length && a.every((one, i) => fields.every((field) => one[field] === b[i]?.[field]));
}

const PLAIN = ["mono", "pad_start_s", "pad_end_s", "fade_in_s", "fade_out_s"] as const;

/** Whether both leave the same to be heard. */
export const sameSound = (a: Edits, b: Edits) =>
  PLAIN.every((field) => a[field] === b[field]) &&
  sameList(a.cuts, b.cuts, ["start_s", "end_s"]) &&
  sameList(a.inserts, b.inserts, ["at_s", "length_s", "kind"]);

/** Whether both say the same of who speaks when. */
export const sameRepairs = (a: Repairs | null, b: Repairs | null) => JSON.stringify(a) === JSON.stringify(b);

export const sameSpeakers = (a: Speakers | null, b: Speakers | null) =>
  a === b || (a !== null && b !== null && a.names.join("\n") === b.names.join("\n") && sameList(a.turns, b.turns, ["start_s", "end_s", "speaker"]));

export const sameEdits = (a: Edits, b: Edits) =>
  sameSound(a, b) && sameList(a.markers, b.markers, ["at_s", "name"]) && sameSpeakers(a.speakers, b.speakers) && sameRepairs(a.repairs, b.repairs);
