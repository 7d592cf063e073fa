/** Where a step that advice proposes belongs, and with which settings. */

import type { Finding, Params, Step, StepType } from "../../api/types";
import { newStep } from "./chainHistory";

/** The proposed step with every setting, or null when the finding proposes none. */
export function proposedStep(finding: Finding, types: StepType[]): Step | null {
  if (finding.act?.kind !== "add_step") return null;
  const { type, params } = finding.act.with as { type: string; params: Params };
  const declared = types.find((t) => t.type === type);
  if (!declared) return null;
  const plain = newStep(declared);
  return { ...plain, params: { ...plain.params, ...completed(params, declared) } };
}

/** Records in a proposal name only what matters; the rest takes its default. */
function completed(params: Params, type: StepType): Params {
  const entries = Object.entries(params).map(([name, value]) => {
    const setting = type.settings.find((s) => s.name === name);
    if (!setting?.record || !Array.isArray(value)) return [name, value] as const;
    const defaults = Object.fromEntries(
      (setting.record as unknown as { name: string; default: unknown }[]).map((f) => [f.name, f.default]),
    );
    return [name, value.map((record) => ({ ...defaults, ...(record as object) }))] as const;
  });
  return Object.fromEntries(entries) as Params;
}

/** Place of a step in the usual order: before the first step that usually comes later. */
export function usualPlace(type: string, steps: Step[], types: StepType[]): number {
  const rank = (name: string) => types.findIndex((t) => t.type === name);
  const later = steps.findIndex((step) => rank(step.type) > rank(type));
  return later < 0 ? steps.length : later;
}

/** Whether the chain already holds a step of the proposed kind. */
export const isTaken = (finding: Finding, steps: Step[]) =>
  finding.act?.kind === "add_step" && steps.some((step) => step.enabled && step.type === finding.act?.with.type);
