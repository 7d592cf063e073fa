/** What differs between two chains, in short words. */

import type { Setting, SettingRecord, SettingValue, Step, StepType } from "../api/types";
import { formatHz, formatNumber } from "../pictures/figures";
import { choiceWord, isShare, withUnit } from "./settingWords";
import { sameSteps } from "./sameSteps";

/** Differences in the order of the chain; empty when both are the same. */
export function differences(from: readonly Step[], to: readonly Step[], types: readonly StepType[]): string[] {
  const label = (step: Step) => types.find((t) => t.type === step.type)?.label ?? step.type;
  const kept = commonPairs(from, to);
  const gone = from.map((step, i) => ({ step, i })).filter(({ i }) => !kept.some(([a]) => a === i));
  const words: string[] = [];
  for (const [i, step] of to.entries()) {
    if (kept.some(([, b]) => b === i)) continue;
    const same = gone.findIndex((g) => sameSteps([g.step], [step]));
    const place = same >= 0 ? same : gone.findIndex((g) => g.step.type === step.type);
    const [old] = place >= 0 ? gone.splice(place, 1) : [];
    if (!old) words.push(`${label(step)} added`);
    else if (same >= 0) words.push(`${label(step)} moved`);
    else words.push(...ofStep(old.step, step, label(step), types));
  }
  return [...words, ...gone.map(({ step }) => `${label(step)} removed`)];
}

/** Longest row of steps that both have, as pairs of places. */
function commonPairs(a: readonly Step[], b: readonly Step[]): [number, number][] {
  const best = Array.from({ length: a.length + 1 }, () => new Array<number>(b.length + 1).fill(0));
  const at = (i: number, j: number) => best[i]?.[j] ?? 0;
  const equal = (i: number, j: number) => sameSteps([a[i] as Step], [b[j] as Step]);
  for (let i = a.length - 1; i >= 0; i -= 1) {
    for (let j = b.length - 1; j >= 0; j -= 1) {
      const row = best[i];
      if (row) row[j] = equal(i, j) ? at(i + 1, j + 1) + 1 : Math.max(at(i + 1, j), at(i, j + 1));
    }
  }
  const pairs: [number, number][] = [];
  for (let i = 0, j = 0; i < a.length && j < b.length; ) {
    if (equal(i, j)) pairs.push([i++, j++]);
    else if (at(i + 1, j) >= at(i, j + 1)) i += 1;
    else j += 1;
  }
  return pairs;
}

function ofStep(from: Step, to: Step, label: string, types: readonly StepType[]): string[] {
  const words = from.enabled === to.enabled ? [] : [`${label} switched ${to.enabled ? "on" : "off"}`];
  const settings = types.find((t) => t.type === to.type)?.settings ?? [];
  for (const setting of settings) {
    const [old, now] = [from.params[setting.name], to.params[setting.name]];
    if (old === undefined || now === undefined || JSON.stringify(old) === JSON.stringify(now)) continue;
    const name = setting.label.toLowerCase();
    if (setting.kind === "records") words.push(...ofRecords(old as SettingRecord[], now as SettingRecord[], setting, label));
    else words.push(`${label}: ${name} ${shown(old, withUnit(setting, from.params))} to ${shown(now, withUnit(setting, to.params))}`);
  }
  return words;
}

function ofRecords(from: SettingRecord[], to: SettingRecord[], setting: Setting, label: string): string[] {
  const name = setting.label.toLowerCase().replace(/s$/, "");
  if (to.length !== from.length) return [`${label}: ${name} ${to.length > from.length ? "added" : "removed"}`];
  const fields = (setting.record ?? []) as unknown as Setting[];
  return to.flatMap((record, row) => {
    const changed = fields.filter((f) => record[f.name] !== from[row]?.[f.name]);
    const parts = changed.map((f) => `${f.label.toLowerCase()} ${shown(from[row]?.[f.name] ?? "", f)} to ${shown(record[f.name] ?? "", f)}`);
    return parts.length > 0 ? [`${label}: ${name} ${row + 1}, ${parts.join(", ")}`] : [];
  });
}

function shown(value: SettingValue, setting: Setting): string {
  if (typeof value === "boolean") return value ? "on" : "off";
  if (typeof value === "number") {
    if (isShare(setting)) return `${formatNumber(Math.round(100 * value))} %`;
    return setting.unit === "Hz" ? formatHz(value) : `${formatNumber(Math.round(value * 100) / 100)} ${setting.unit}`.trim();
  }
  return Array.isArray(value) ? value.map((v) => (typeof v === "number" ? formatNumber(v) : "…")).join(" and ") : choiceWord(setting, value);
}
