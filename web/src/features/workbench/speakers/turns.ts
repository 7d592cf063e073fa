/** Corrections of who speaks when. Each gives new speakers and leaves the old ones as they are. */

import { toOriginal, type Shifts, type Speakers, type Turn } from "../../../audio/cutTimes";
import type { Run } from "../../../api/types";

export const MOST_SPEAKERS = 6;

/** Turns in order; neighbours of one speaker with no other between them stay apart. */
const inOrder = (turns: Turn[]) => [...turns].sort((a, b) => a.start_s - b.start_s);

/** Without speakers who have no turn; the others move up. */
function withoutIdle({ names, turns }: Speakers): Speakers {
  const left = names.map((_, i) => i).filter((i) => turns.some((turn) => turn.speaker === i));
  return { names: left.map((i) => names[i] ?? ""), turns: turns.map((turn) => ({ ...turn, speaker: left.indexOf(turn.speaker) })) };
}

/** The name that a new speaker gets. */
function nextName(names: readonly string[]): string {
  let number = names.length + 1;
  while (names.includes(`Speaker ${number}`)) number += 1;
  return `Speaker ${number}`;
}

/** One turn is another's; `speaker` may be one more than there are. */
export function given(speakers: Speakers, at: number, speaker: number): Speakers {
  const names = speaker === speakers.names.length ? [...speakers.names, nextName(speakers.names)] : speakers.names;
  return withoutIdle({ names, turns: speakers.turns.map((turn, i) => (i === at ? { ...turn, speaker } : turn)) });
}

/** All turns of one speaker are another's. */
export const merged = (speakers: Speakers, from: number, into: number): Speakers =>
  withoutIdle({ ...speakers, turns: speakers.turns.map((turn) => (turn.speaker === from ? { ...turn, speaker: into } : turn)) });

export const renamed = (speakers: Speakers, speaker: number, name: string): Speakers => ({
  ...speakers, names: speakers.names.map((old, i) => (i === speaker ? name : old)),
});

/** One turn is two, parted at a time; the same speakers where the time is not well inside it. */
export function parted(speakers: Speakers, at: number, timeS: number): Speakers {
  const turn = speakers.turns[at];
  if (!turn || !canPart(turn, timeS)) return speakers;
  const halves = [{ ...turn, end_s: timeS }, { ...turn, start_s: timeS }];
  return { ...speakers, turns: inOrder([...speakers.turns.slice(0, at), ...halves, ...speakers.turns.slice(at + 1)]) };
}

const LEAST_S = 0.1;
export const canPart = (turn: Turn, timeS: number) => timeS > turn.start_s + LEAST_S && timeS < turn.end_s - LEAST_S;

/** How long each speaks, in seconds. */
export const speaksS = ({ names, turns }: Speakers): number[] =>
  names.map((_, i) => turns.reduce((sum, turn) => sum + (turn.speaker === i ? turn.end_s - turn.start_s : 0), 0));

function isSpeakers(value: unknown): value is Speakers {
  return typeof value === "object" && value !== null && "turns" in value && "names" in value && Array.isArray(value.turns) && Array.isArray(value.names);
}

/** Who speaks when as a run's chain has found it, in times of the original. */
export function foundBy(run: Run | null): Speakers | null {
  const found = run?.points.map((point) => point.report.speakers).find(isSpeakers);
  if (!run || !found || found.turns.length === 0) return null;
  const shifts = run as Shifts;
  const turns = found.turns
    .map((turn) => ({ ...turn, start_s: round(toOriginal(turn.start_s, shifts)), end_s: round(toOriginal(turn.end_s, shifts)) }))
    .filter((turn) => turn.end_s > turn.start_s);
  return { names: [...found.names], turns };
}

const round = (seconds: number) => Math.round(seconds * 1000) / 1000;
