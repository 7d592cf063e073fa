/** Measures before and after side by side, and the same as a file. */

import type { Measures } from "../../api/types";
import { howMeasured } from "../../pictures/Figure";
import { shownClearance, shownDifference } from "../../pictures/figures";

type Name = keyof typeof howMeasured;

export interface Row {
  name: Name;
  label: string;
  unit: string;
  before: number | null;
  after: number | null;
  /** Of the shown figures, so that sums check. */
  change: number | null;
}

const SHOWN: readonly [Name, string, string][] = [
  ["integrated_lufs", "Loudness", "LUFS"], ["momentary_max_lufs", "Loudest moment", "LUFS"], ["short_term_max_lufs", "Loudest three seconds", "LUFS"],
  ["loudness_range_lu", "Loudness range", "LU"], ["true_peak_dbtp", "True peak", "dBTP"], ["sample_peak_dbfs", "Sample peak", "dBFS"], ["rms_dbfs", "RMS", "dBFS"],
  ["crest_db", "Peak over RMS", "dB"], ["voice_level_dbfs", "Voice level", "dBFS"], ["noise_floor_dbfs", "Noise floor", "dBFS"], ["clearance_db", "Clearance", "dB"],
];

export function measureRows(before: Measures, after: Measures): Row[] {
  return SHOWN.map(([name, label, unit]) => {
    const [was, now] = name === "clearance_db" ? [shownClearance(before), shownClearance(after)] : [before[name] ?? null, after[name] ?? null];
    return { name, label, unit, before: was, after: now, change: was === null || now === null ? null : shownDifference(was, now) };
  });
}

/** Levels of third octaves before and after, as far as both have them. */
export function thirdOctaves(before: Measures, after: Measures) {
  const later = new Map((after.spectrum ?? []).map((band) => [band.freq_hz, band.level_dbfs]));
  return (before.spectrum ?? []).flatMap((band) => {
    const now = later.get(band.freq_hz);
    return band.level_dbfs === null || now === null || now === undefined ? [] : [{ freqHz: band.freq_hz, before: band.level_dbfs, after: now }];
  });
}

/** All figures of two sides as comma-separated values (RFC 4180). */
export function asCsv(before: Measures, after: Measures): string {
  const cell = (value: string | number | null) => (value === null ? "" : `"${String(value).replace(/"/g, '""')}"`);
  const line = (...cells: (string | number | null)[]) => cells.map(cell).join(",");
  const rows = measureRows(before, after).map((r) => line(r.label, r.unit, r.before, r.after, r.change));
  const bands = thirdOctaves(before, after).map((b) => line(`Third octave at ${b.freqHz} Hz`, "dBFS", b.before, b.after, shownDifference(b.before, b.after)));
  return [line("Measure", "Unit", "Before", "After", "Difference"), ...rows, ...bands].join("\r\n") + "\r\n";
}
