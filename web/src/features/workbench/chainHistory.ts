/** Chain and edits of a recording with undo and redo. Pure: every act returns a new history. */

import { sameSteps } from "../../chains/sameSteps";
import type { Params, Step, StepType } from "../../api/types";
import { noEdits, sameEdits, type Edits } from "../../audio/cutTimes";

/** The recipe a chain came from, as far as any. */
export interface Origin {
  recipe: string | null;
  recipe_version: number | null;
}

/** All of a recording that can be changed on the workbench. */
export interface Work {
  steps: Step[];
  edits: Edits;
  /** Not known of work that an older version kept. */
  origin?: Origin | undefined;
}

export interface History extends Work {
  past: Work[];
  future: Work[];
  /** The drag or key press that the last change came from; more of it is the same change. */
  gesture: string | null;
}

const MOST_UNDO = 200;

export type Act =
  | { kind: "replace"; steps: Step[]; edits?: Edits; origin?: Origin }
  | { kind: "add"; step: Step; at: number }
  | { kind: "remove"; at: number }
  | { kind: "move"; from: number; to: number }
  | { kind: "switch"; at: number; enabled: boolean }
  | { kind: "set"; at: number; params: Params; gesture?: string }
  | { kind: "duplicate"; at: number }
  | { kind: "edit"; edits: Edits }
  /** What was kept on the server, brought into order there; nothing to undo. */
  | { kind: "kept"; edits: Edits }
  | { kind: "undo" }
  | { kind: "redo" };

export const emptyHistory: History = { past: [], steps: [], edits: noEdits, future: [], gesture: null };

/** A step with all settings at their defaults. */
export function newStep(type: StepType): Step {
  const params: Params = {};
  for (const setting of type.settings) params[setting.name] = setting.default as Params[string];
  return { type: type.type, enabled: true, params };
}

function changed(steps: Step[], act: Act): Step[] {
  switch (act.kind) {
    case "replace":
      return act.steps;
    case "add":
      return [...steps.slice(0, act.at), act.step, ...steps.slice(act.at)];
    case "duplicate":
      return steps.flatMap((s, i) => (i === act.at ? [s, s] : [s]));
    case "remove":
      return steps.filter((_, i) => i !== act.at);
    case "move": {
      const rest = steps.filter((_, i) => i !== act.from);
      const moved = steps[act.from];
      return moved ? [...rest.slice(0, act.to), moved, ...rest.slice(act.to)] : steps;
    }
    case "switch":
      return steps.map((s, i) => (i === act.at ? { ...s, enabled: act.enabled } : s));
    case "set":
      return steps.map((s, i) => (i === act.at ? { ...s, params: { ...s.params, ...act.params } } : s));
    default:
      return steps;
  }
}

/** History after an act. */
export function historyAfter(history: History, act: Act): History {
  const { past, future, gesture: before, ...now } = history;
  if (act.kind === "undo") {
    const last = past.at(-1);
    return last ? { past: past.slice(0, -1), ...last, future: [now, ...future], gesture: null } : history;
  }
  if (act.kind === "redo") {
    const [next, ...later] = future;
    return next ? { past: [...past, now], ...next, future: later, gesture: null } : history;
  }
  if (act.kind === "kept") return sameEdits(act.edits, now.edits) ? history : { ...history, edits: act.edits };
  const origin = (act.kind === "replace" ? act.origin : undefined) ?? now.origin;
  const next = { steps: changed(now.steps, act), edits: (act.kind === "edit" || act.kind === "replace" ? act.edits : undefined) ?? now.edits, origin };
  if (sameSteps(next.steps, now.steps) && sameEdits(next.edits, now.edits)) return history;
  const gesture = act.kind === "set" ? (act.gesture ?? null) : null;
  const goesOn = gesture !== null && gesture === before;
  return { past: goesOn ? past : [...past, now].slice(-MOST_UNDO), ...next, future: [], gesture };
}


/** How many first steps two chains have in common. */
export function commonSteps(a: readonly Step[], b: readonly Step[]): number {
  let count = 0;
  for (const [i, step] of a.entries()) {
    const other = b[i];
    if (!other || !sameSteps([step], [other])) break;
    count += 1;
  }
  return count;
}
