/** EQ bands as the picture handles them. */

import type { SettingRecord } from "../../../api/types";
import { formatChange, formatHz, formatNumber } from "../../../pictures/figures";

export interface Band {
  type: string;
  freq_hz: number;
  gain_db: number;
  q: number;
  slope_db_oct: number;
  enabled: boolean;
}

export const asBand = (record: SettingRecord): Band => ({
  type: String(record.type), freq_hz: Number(record.freq_hz), gain_db: Number(record.gain_db ?? 0), q: Number(record.q ?? 1),
  slope_db_oct: Number(record.slope_db_oct ?? 12), enabled: record.enabled !== false,
});
export const asRecord = (band: Band): SettingRecord => ({ ...band });

export const BAND_WORDS: Record<string, string> = {
  high_pass: "High-pass", low_pass: "Low-pass", low_shelf: "Low shelf", high_shelf: "High shelf", bell: "Bell", notch: "Notch",
};
export const hasGain = (type: string) => type === "bell" || type === "low_shelf" || type === "high_shelf";
export const hasSlope = (type: string) => type === "high_pass" || type === "low_pass";

export const bandWords = (band: Band) =>
  `${formatHz(band.freq_hz)}${hasGain(band.type) ? `, ${formatChange(band.gain_db)} dB` : ""}${
    hasSlope(band.type) ? `, ${formatNumber(band.slope_db_oct)} dB per octave` : `, Q ${formatNumber(Math.round(band.q * 100) / 100)}`
  }${band.enabled ? "" : ", off"}`;

const within = (value: number, low: number, high: number) => Math.min(high, Math.max(low, value));
const MOST_GAIN_DB = 24;

/** A band moved to a place of the picture, in whole steps. */
export function moved(band: Band, freqHz: number, gainDb: number): Band {
  const digits = freqHz < 1000 ? 1 : 10;
  return {
    ...band,
    freq_hz: within(Math.round(freqHz / digits) * digits, 20, 20000),
    gain_db: hasGain(band.type) ? within(Math.round(gainDb * 2) / 2, -MOST_GAIN_DB, MOST_GAIN_DB) : band.gain_db,
  };
}

export const narrower = (band: Band, factor: number): Band =>
  hasSlope(band.type) ? band : { ...band, q: within(Math.round(band.q * factor * 100) / 100, 0.1, 30) };

/** While hunting, a narrow boost sweeps; what is left behind is a cut. */
const HUNT = { gain_db: 10, q: 8 };
const LEFT_AS = { gain_db: -4, q: 4 };
export const hunting = (band: Band): Band => ({ ...band, type: "bell", enabled: true, ...HUNT });
export const afterHunt = (band: Band): Band => ({ ...band, type: "bell", enabled: true, ...LEFT_AS });

/** A cut that takes a peak back to what surrounds it. */
export const cutAt = (freqHz: number, overDb: number): Band => ({
  type: "bell", freq_hz: Math.round(freqHz), gain_db: -Math.round(overDb * 2) / 2, q: 4, slope_db_oct: 12, enabled: true,
});

/** Where bands of a voice usually go: rumble out, mud, presence, air, then what lies between. */
const USUAL: readonly Partial<Band>[] = [
  { type: "high_pass", freq_hz: 80 }, { freq_hz: 300 }, { freq_hz: 3000 }, { type: "high_shelf", freq_hz: 10_000 }, { freq_hz: 150 }, { freq_hz: 800 },
  { freq_hz: 5500 }, { freq_hz: 500 }, { freq_hz: 1700 }, { freq_hz: 8000 },
];
const SAME_PLACE_OCT = 0.5;

/** A new band where one is usual and none is yet; flat, so that nothing changes before it is turned. */
export function freshBand(plain: Band, bands: readonly Band[]): Band {
  const taken = (freqHz: number) => bands.some((b) => Math.abs(Math.log2(b.freq_hz / freqHz)) < SAME_PLACE_OCT);
  return { ...plain, ...USUAL.find((usual) => !taken(usual.freq_hz ?? plain.freq_hz)) };
}
