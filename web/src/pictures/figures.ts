/** How numbers are written: one decimal, a true minus sign, units left to the caller. */

const minus = "\u2212";

/** Level to one decimal; a dash where there is none. */
export function formatDb(value: number | null | undefined): string {
  if (value === null || value === undefined) return "\u2013";
  const shown = value.toFixed(1);
  return shown === "-0.0" ? "0.0" : shown.replace("-", minus);
}

/** Difference with its sign. */
export function formatChange(value: number): string {
  const shown = formatDb(value);
  return value > 0 && shown !== "0.0" ? `+${shown}` : shown;
}

/** Peak level; one over full scale carries its sign, so that it is not taken for one below. */
export function formatPeak(value: number | null | undefined): string {
  return value === null || value === undefined ? formatDb(value) : formatChange(value);
}

/** Time as m:ss.s, with hours from one hour on. */
export function formatTime(timeS: number, decimals = 1): string {
  const parts = 10 ** decimals;
  const count = Math.round(Math.max(0, timeS) * parts);
  const hours = Math.floor(count / (3600 * parts));
  const minutes = Math.floor((count % (3600 * parts)) / (60 * parts));
  const seconds = ((count % (60 * parts)) / parts).toFixed(decimals).padStart(decimals ? decimals + 3 : 2, "0");
  return hours > 0
    ? `${hours}:${String(minutes).padStart(2, "0")}:${seconds}`
    : `${minutes}:${seconds}`;
}

/** Frequency as 180 Hz or 2.4 kHz. */
export function formatHz(freqHz: number): string {
  if (freqHz < 1000) return `${Math.round(freqHz)} Hz`;
  return `${(freqHz / 1000).toFixed(freqHz % 1000 === 0 ? 0 : 1)} kHz`;
}

/** Size of a file or of many, as 3.2 MB or 1.8 GB. */
export function formatBytes(bytes: number): string {
  if (bytes < 1e6) return `${Math.ceil(bytes / 1e3)} kB`;
  return bytes < 999.95e6 ? `${(bytes / 1e6).toFixed(1)} MB` : `${(bytes / 1e9).toFixed(1)} GB`;
}

/** Any setting's number, as short as it can be said. */
export function formatNumber(value: number): string {
  const rounded = Math.round(value * 1000) / 1000;
  return String(rounded).replace("-", minus);
}

/** Number typed by a person: commas, true minus signs and units are understood; null if none. */
export function parseNumber(text: string): number | null {
  const plain = text.trim().replaceAll(minus, "-").replace(",", ".");
  const match = /^([+-]?\d*\.?\d+)\s*(k?)/i.exec(plain);
  if (!match?.[1]) return null;
  return Number(match[1]) * (match[2]?.toLowerCase() === "k" ? 1000 : 1);
}

/** Difference of two levels as displayed, so that sums check on the screen. */
export function shownDifference(from: number, to: number): number {
  return (Math.round(to * 10) - Math.round(from * 10)) / 10;
}

/** Of the shown voice level and noise floor, so that a row adds up and every page tells the same. */
export function shownClearance(levels: { voice_level_dbfs?: number | null; noise_floor_dbfs?: number | null } | null | undefined): number | null {
  const voice = levels?.voice_level_dbfs ?? null;
  const noise = levels?.noise_floor_dbfs ?? null;
  return voice === null || noise === null ? null : shownDifference(noise, voice);
}
