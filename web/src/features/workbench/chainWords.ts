/** What is said of a chain, and of changes to it. */

import type { StepType } from "../../api/types";
import { sameEdits, sameRepairs, sameSound, sameSpeakers, type Edits } from "../../audio/cutTimes";
import { differences } from "../../chains/differences";
import type { History, Work } from "./chainHistory";

/** Why what acts on a chain is greyed out while there is none. */
export const NO_CHAIN = "Add a step or apply a recipe first";

/** What an undo or redo would change, in a few words; null when nothing. */
export function changeName(from: Work | undefined, to: Work, types: readonly StepType[]): string | null {
  if (!from) return null;
  const words = changeWords(from, to, types);
  const [first, ...more] = words;
  if (first === undefined) return null;
  return more.length > 1 ? `${first} and ${more.length} more` : words.join(", ");
}

/** What each undo would take back, the last change first. */
export function earlierChanges({ past, ...now }: History, types: readonly StepType[]): string[] {
  const states = [...past, now];
  return past.map((state, i) => changeName(state, states[i + 1] as Work, types) ?? "a change").reverse();
}

/** All that differs between two states of the work. */
export const changeWords = (from: Work, to: Work, types: readonly StepType[]): string[] => [
  ...differences(from.steps, to.steps, types),
  ...ofEdits(from.edits, to.edits),
];

function ofEdits(from: Edits, to: Edits): string[] {
  if (sameEdits(from, to)) return [];
  const grown = (name: "cuts" | "inserts" | "markers") => to[name].length - from[name].length;
  const cuts = grown("cuts"), inserts = grown("inserts"), markers = grown("markers");
  if (cuts > 1) return [`${cuts} cuts`];
  if (cuts === 1) return ["cut"];
  if (cuts < 0) return ["cut taken back"];
  if (inserts !== 0) return [inserts > 0 ? "insert" : "insert removed"];
  if (markers !== 0) return [markers > 0 ? "marker" : "marker removed"];
  if (!sameSpeakers(from.speakers, to.speakers)) return ["speakers"];
  if (!sameRepairs(from.repairs, to.repairs)) return ["repairs"];
  if (from.mono !== to.mono) return [to.mono ? `mono from ${to.mono}` : "stereo again"];
  if (from.fade_in_s !== to.fade_in_s || from.fade_out_s !== to.fade_out_s) return ["fades"];
  if (sameSound(from, to)) return ["marker renamed"];
  return ["head and tail"];
}
