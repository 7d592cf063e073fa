import { describe, expect, test } from "vitest";

import { levelsOf, NEEDED_S, SILENCE_DB, truePeak } from "./levels";

const tone = (rateHz: number, freqHz: number, peak: number, phase = 0) =>
  Float32Array.from({ length: Math.round(NEEDED_S * rateHz) }, (_, i) => peak * Math.sin(2 * Math.PI * freqHz * (i / rateHz) + phase));

describe("levels of what plays now", () => {
  // EBU Tech 3341, case 1: a stereo tone of 1 kHz at -23 dBFS on each side measures -23 LUFS.
  test.each([44_100, 48_000])("a tone of -23 LUFS at %d Hz", (rateHz) => {
    const side = tone(rateHz, 1000, 10 ** (-23 / 20));
    const levels = levelsOf([side, side], rateHz);
    expect(levels.lufs).toBeCloseTo(-23, 1);
    expect(levels.rmsDbfs).toBeCloseTo(-23 - 3.01, 1);
    expect(levels.truePeakDbtp).toBeCloseTo(-23, 0);
  });

  test("one channel is 3 LU softer than two alike", () => {
    const side = tone(48_000, 1000, 0.1);
    expect(levelsOf([side, side], 48_000).lufs - levelsOf([side], 48_000).lufs).toBeCloseTo(3.01, 2);
  });

  // BS.1770-5 Annex 2: a quarter of the rate, sampled 45 degrees off its peaks, reads 3 dB too low at the samples.
  test("a peak between the samples is seen", () => {
    const between = tone(48_000, 12_000, 0.5, Math.PI / 4);
    expect(Math.max(...between.map(Math.abs))).toBeCloseTo(0.354, 3);
    expect(20 * Math.log10(truePeak(between) / 0.5)).toBeGreaterThan(-0.4);
    expect(20 * Math.log10(truePeak(between) / 0.5)).toBeLessThan(0.2);
  });

  test("silence has a floor, and too little sound does no harm", () => {
    expect(levelsOf([new Float32Array(24_000)], 48_000)).toEqual({ rmsDbfs: SILENCE_DB, lufs: SILENCE_DB, truePeakDbtp: SILENCE_DB });
    expect(levelsOf([new Float32Array(3)], 48_000).rmsDbfs).toBe(SILENCE_DB);
  });
});
