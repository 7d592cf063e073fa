/** A multiband step has one band more than crossovers; both change together. */

import type { Params, SettingRecord } from "../../api/types";
import { parseQuantity } from "../../pictures/quantity";

/** Crossovers as typed ("200, 3000", "200 Hz; 3 kHz"), or null when they are not understood. */
export function readCrossovers(text: string): number[] | null {
  const parts = text.split(/[,;]|\s+(?=[\d.])/).filter((part) => part.trim() !== "");
  const freqsHz = parts.map((part) => parseQuantity(part, "Hz"));
  return freqsHz.length > 0 && freqsHz.every((hz) => hz !== null) ? freqsHz : null;
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
