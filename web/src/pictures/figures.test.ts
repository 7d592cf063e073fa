import { describe, expect, test } from "vitest";

import { formatChange, formatDb, formatHz, formatPeak, formatTime, parseNumber, shownClearance, shownDifference } from "./figures";

describe("figures", () => {
  test.each([
    [-12.04, "−12.0"],
    [-0.04, "0.0"],
    [3, "3.0"],
    [null, "–"],
    [undefined, "–"],
  ])("level %s is written %s", (value, text) => expect(formatDb(value)).toBe(text));

  test.each([
    [-1.04, "−1.0"],
    [0.6, "+0.6"],
    [null, "–"],
  ])("peak %s is written %s", (value, text) => expect(formatPeak(value)).toBe(text));

  test.each([
    [2, "+2.0"],
    [-2, "−2.0"],
    [0.01, "0.0"],
  ])("change %s is written %s", (value, text) => expect(formatChange(value)).toBe(text));

  test.each([
    [0, "0:00.0"],
    [59.96, "1:00.0"],
    [61.23, "1:01.2"],
    [3725.5, "1:02:05.5"],
  ])("time %s is written %s", (value, text) => expect(formatTime(value)).toBe(text));

  test.each([
    [180, "180 Hz"],
    [2400, "2.4 kHz"],
    [9000, "9 kHz"],
  ])("frequency %s is written %s", (value, text) => expect(formatHz(value)).toBe(text));

  test.each([
    ["−3,5 dB", -3.5],
    ["2.4 kHz", 2400],
    ["80 Hz", 80],
    [".5", 0.5],
    ["loud", null],
    ["", null],
  ])("%s is read as %s", (text, value) => expect(parseNumber(text)).toBe(value));

  test("differences are those of the figures shown", () => {
    expect(shownDifference(-54.34, -30.86)).toBe(23.4);
  });

  test("clearance is that of the levels beside it", () => {
    expect(shownClearance({ voice_level_dbfs: -29.66, noise_floor_dbfs: -55.13 })).toBe(25.4);
    expect(shownClearance({ voice_level_dbfs: -29.66, noise_floor_dbfs: null })).toBeNull();
    expect(shownClearance(null)).toBeNull();
  });
});
