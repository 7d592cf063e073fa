/** Frequencies marked on an axis. */
export const FREQ_TICKS = [
  { at: 50, text: "50 Hz" }, { at: 100, text: "100" }, { at: 200, text: "200" }, { at: 500, text: "500" },
  { at: 1000, text: "1 kHz" }, { at: 2000, text: "2" }, { at: 5000, text: "5" }, { at: 10000, text: "10 kHz" },
] as const;

export const LOWEST_HZ = 30;
export const HIGHEST_HZ = 20000;

/** Levels to show of spectra: the loudest with some room, and 70 dB down from there. */
export function spectrumRange(...spectra: (readonly number[] | undefined)[]): [number, number] {
  const top = Math.max(-90, ...spectra.flatMap((s) => s ?? []));
  const high = Math.ceil((top + 3) / 10) * 10;
  return [high - 70, high];
}
