/** A multiband step has one band more than crossovers; both change together. */

import type { Params, SettingRecord } from "../../api/types";
import { parseNumber } from "../../pictures/figures";

/** Crossovers as typed ("200, 3000"), or null when they are no numbers. */
export function readNumbers(text: string): number[] | null {
  const parts = text.split(/[,;\s]+/).filter((part) => part !== "");
  const numbers = parts.map(parseNumber);
  return numbers.length > 0 && numbers.every((n) => n !== null) ? (numbers) : null;
}

/** Settings with these crossovers and as many bands as they need; a new band copies the last. */
export function withCrossovers(params: Params, crossovers: number[]): Params {
  const bands = (params.bands ?? []) as SettingRecord[];
  const last = bands[bands.length - 1] ?? {};
  const fitting = Array.from({ length: crossovers.length + 1 }, (_, i) => bands[i] ?? { ...last });
  return { crossovers_hz: crossovers, bands: fitting };
}

/** Names of so many bands, from low to high. */
export function bandNames(crossovers: number[], format: (hz: number) => string): string[] {
  const edges = crossovers.map(format);
  return [
    `Below ${edges[0] ?? ""}`,
    ...edges.slice(1).map((edge, i) => `${edges[i] ?? ""} to ${edge}`),
    `Above ${edges[edges.length - 1] ?? ""}`,
  ];
}
