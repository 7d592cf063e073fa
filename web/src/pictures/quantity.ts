import { parseNumber } from "./figures";

/** What each unit a person may type is worth, by the unit a setting is kept in. */
const WORTH: Record<string, Record<string, number>> = {
  ms: { ms: 1, s: 1000, sec: 1000 },
  s: { s: 1, sec: 1, ms: 0.001, min: 60 },
  Hz: { hz: 1, khz: 1000, k: 1000 },
  dB: { db: 1, dbfs: 1 },
  dBFS: { dbfs: 1, db: 1 },
  dBTP: { dbtp: 1, db: 1 },
  LUFS: { lufs: 1 },
  LU: { lu: 1, lufs: 1, db: 1 },
  "dB/oct": { "db/oct": 1, db: 1 },
  oct: { oct: 1, octave: 1, octaves: 1 },
  ": 1": { ": 1": 1, ":1": 1 },
  // A share of one, such as a mix.
  "": { "%": 0.01 },
  "%": { "%": 1 },
};

const NUMBER = /^[+-]?(?:\d+\.?\d*|\.\d+)/;

/**
 * A typed quantity in the unit a setting is kept in: "0.2 s" is 200 for a setting in ms, "2,4 kHz" is 2400 in Hz, "50 %" is
 * 0.5 of a whole. A bare number is in the setting's own unit. Null for what is not understood, which must change nothing.
 */
export function parseQuantity(text: string, unit: string): number | null {
  const plain = text.trim().replaceAll("−", "-").replace(",", ".").replace(/\s+/g, " ").toLowerCase();
  const number = NUMBER.exec(plain)?.[0];
  if (number === undefined) return null;
  const typed = plain.slice(number.length).trim();
  const worth = typed === "" ? 1 : WORTH[unit]?.[typed];
  return worth === undefined ? null : Math.round(Number(number) * worth * 1e9) / 1e9;
}

/** A typed time in seconds: "90", "1:30", "1:02:03.5", "800 ms". */
export function parseTime(text: string): number | null {
  const parts = text.trim().split(":");
  if (parts.length === 1) return parseQuantity(text, "s");
  const numbers = parts.map((part) => (/^\d+(?:[.,]\d+)?$/.test(part) ? parseNumber(part) : null));
  return numbers.reduce<number | null>((sum, part) => (sum === null || part === null ? null : 60 * sum + part), 0);
}
