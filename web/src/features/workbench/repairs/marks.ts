/** Events of repairs as marks: mended, left alone, or pointed at by a person; times of the original. */

import { toOriginal, type RepairSpan, type Repairs, type Shifts } from "../../../audio/cutTimes";
import type { Run, Step } from "../../../api/types";

export type MarkState = "mended" | "refused" | "added";

export interface RepairMark extends RepairSpan {
  state: MarkState;
  /** By how much it stood out, in dB; null of what no run has measured. */
  strengthDb: number | null;
}

export const STATE_WORDS: Record<MarkState, string> = { mended: "mended", refused: "left alone", added: "added by hand" };

/** The one thing to do about an event. */
export const actOn = ({ state }: RepairMark): string => ({ mended: "Leave it alone", refused: "Mend it again", added: "Take it back" })[state];

export const lengthMs = ({ start_s, end_s }: RepairSpan): number => Math.round((end_s - start_s) * 1000);

const NOTHING: Repairs = { refused: [], added: [] };

/** Rows of start, end and strength, as a step reports them. */
function isEvents(value: unknown): value is [number, number, number][] {
  return Array.isArray(value) && value.every((row) => Array.isArray(row) && row.length === 3);
}

const round = (seconds: number) => Math.round(seconds * 10_000) / 10_000;
const meets = (a: RepairSpan, b: RepairSpan) => a.type === b.type && a.start_s < b.end_s && a.end_s > b.start_s;

/** What a run has mended, in order. */
export function mendedBy(run: Run | null): RepairMark[] {
  if (!run) return [];
  const shifts = run as Shifts;
  return run.points.flatMap((point) => {
    const { events } = point.report;
    if (!point.enabled || !isEvents(events)) return [];
    return events.map(([start, end, strengthDb]): RepairMark => ({
      type: point.type, start_s: round(toOriginal(start, shifts)), end_s: round(toOriginal(end, shifts)), state: "mended", strengthDb,
    }));
  });
}

/** All marks in order of time; what a person has settled since comes before what the run did. */
export function marksOf(run: Run | null, repairs: Repairs | null): RepairMark[] {
  const { refused, added } = repairs ?? NOTHING;
  const settled: RepairMark[] = [
    ...refused.map((span) => ({ ...span, state: "refused" as const, strengthDb: null })),
    ...added.map((span) => ({ ...span, state: "added" as const, strengthDb: null })),
  ];
  const mended = mendedBy(run).filter((mark) => !settled.some((other) => meets(mark, other)));
  return [...settled, ...mended].sort((a, b) => a.start_s - b.start_s);
}

const spanOf = ({ type, start_s, end_s }: RepairSpan): RepairSpan => ({ type, start_s, end_s });
const emptied = (repairs: Repairs): Repairs | null => (repairs.refused.length + repairs.added.length > 0 ? repairs : null);

/** Leave an event alone; one that a person has added goes again. */
export function refusing(repairs: Repairs | null, mark: RepairMark): Repairs | null {
  const now = repairs ?? NOTHING;
  const added = now.added.filter((span) => !meets(span, mark));
  return emptied({ refused: mark.state === "added" ? now.refused : [...now.refused, spanOf(mark)], added });
}

/** Mend again what was to be left alone. */
export function mending(repairs: Repairs | null, mark: RepairMark): Repairs | null {
  const now = repairs ?? NOTHING;
  return emptied({ ...now, refused: now.refused.filter((span) => !meets(span, mark)) });
}

/** Mend a stretch although it was not found; what was refused there is not any more. */
export function adding(repairs: Repairs | null, span: RepairSpan): Repairs {
  const now = repairs ?? NOTHING;
  return { refused: now.refused.filter((other) => !meets(other, span)), added: [...now.added, span] };
}

/** The next mark behind a time, or the last before it. */
export function nextMark(marks: readonly RepairMark[], timeS: number, forward: boolean): RepairMark | null {
  const found = forward ? marks.find((mark) => mark.start_s > timeS + 0.001) : marks.findLast((mark) => mark.start_s < timeS - 0.001);
  return found ?? null;
}

/** Types of repairs in the chain; they mend what a person points at. */
export const repairsIn = (steps: readonly Step[]): string[] =>
  [...new Set(steps.filter((step) => step.enabled && "sureness_percent" in step.params).map((step) => step.type))];
