/** Figures and words along the chain. */

import type { Levels, Recording, Run, Step, Target } from "../../../api/types";
import { sameSteps } from "../../../chains/sameSteps";
import type { Live } from "../../live";
import { commonSteps } from "../chainHistory";
import type { Limit } from "../LevelPicture";

/** Levels of the recording and after each step: of the passage's estimate, or of the run. */
export function levelsAlong(recording: Recording, run: Run | null, steps: Step[], live: Live): (Levels | null)[] {
  if (live.tail?.points.length === steps.length && live.steps.length === steps.length) {
    return [live.tail.before, ...live.tail.points.map((point) => point.levels)];
  }
  const first = run?.before ?? recording.measures;
  // What a step did is known as long as nothing before it, nor itself, has changed since.
  const known = run ? commonSteps(steps, run.chain as Step[]) : 0;
  return [first, ...steps.map((_, i) => (i < known ? (run?.points[i]?.levels ?? null) : null))];
}

/** What a target bounds of the levels that the level path shows. */
export function limitsOf(target: Target | undefined): Limit[] {
  const high = (measure: string) => target?.bounds?.[measure]?.high;
  const peaks = [high("true_peak_dbtp"), high("sample_peak_dbfs")].filter((v) => v != null);
  const noise = high("noise_floor_dbfs");
  return [
    ...(peaks.length > 0 ? [{ name: "ceiling", db: Math.min(...peaks) }] : []),
    ...(noise != null ? [{ name: "noise at most", db: noise }] : []),
  ];
}

/** What the chain is, and how it stands to the recipe and to the last run. */
export function chainLine(recording: Recording, steps: Step[], result: Run | null, changes: string[]): string {
  if (steps.length === 0) return "No chain yet: add a step below, or apply a recipe";
  const version = recording.recipe_version ? `, version ${recording.recipe_version}` : "";
  const changed = recording.recipe_steps && !sameSteps(recording.recipe_steps as Step[], steps) ? ", changed here" : "";
  const [first, ...more] = changes;
  const since = first === undefined ? "" : `, since the last run: ${first}${more.length > 0 ? ` and ${more.length} more` : ""}`;
  return `${recording.recipe_name ?? "Own chain"}${version}${changed}${result === null ? ", not run yet" : since}`;
}
