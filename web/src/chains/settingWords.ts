/** How people read settings: choices by their words, shares in percent, units that another choice decides. */

import type { Params, Setting } from "../api/types";

/** Whether it is a share of one, which people read in percent. */
export const isShare = (setting: Setting) => setting.kind === "number" && setting.unit === "" && setting.high === 1;

export const unitOf = (setting: Setting) => (isShare(setting) ? "%" : setting.unit);

/** The setting with the unit that another one of these decides. */
export function withUnit(setting: Setting, params: Params): Setting {
  const by = setting.unit_by;
  const choice = by && params[by.setting];
  return by && typeof choice === "string" ? { ...setting, unit: by.units[choice] ?? setting.unit } : setting;
}

export const choiceWord = (setting: Setting, choice: string | number): string => setting.words[String(choice)] ?? String(choice);
