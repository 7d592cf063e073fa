/** Where a step that advice proposes belongs, and with which settings. */

import type { Finding, Params, SettingRecord, Step, StepType } from "../../api/types";
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

/** Frequencies nearer than this to each other do the same job. */
const NEAR = 1.2;

/** Whether the chain already does what the finding proposes. */
export function isTaken(finding: Finding, steps: Step[]): boolean {
  if (finding.act?.kind !== "add_step") return false;
  const { type, params } = finding.act.with as { type: string; params: Params };
  const bands = (params.bands ?? []) as SettingRecord[];
  const there = steps.filter((step) => step.enabled && step.type === type);
  if (bands.length === 0) return there.length > 0;
  const have = there.flatMap((step) => (step.params.bands ?? []) as SettingRecord[]);
  return bands.every((wanted) => have.some((band) => band.type === wanted.type && isNear(band.freq_hz, wanted.freq_hz)));
}

function isNear(a: SettingRecord[string] | undefined, b: SettingRecord[string] | undefined): boolean {
  const ratio = Number(a) / Number(b);
  return ratio < NEAR && ratio > 1 / NEAR;
}
