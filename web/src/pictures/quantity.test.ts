import { describe, expect, test } from "vitest";

import { parseQuantity, parseTime } from "./quantity";

describe("typed quantities", () => {
  test.each([
    ["120", "ms", 120],
    ["1 s", "ms", 1000],
    ["0.2 s", "ms", 200],
    ["0,2s", "ms", 200],
    ["120ms", "ms", 120],
    ["250 ms", "s", 0.25],
    ["1.5", "s", 1.5],
    ["2.4 kHz", "Hz", 2400],
    ["2,4k", "Hz", 2400],
    ["180 Hz", "Hz", 180],
    ["−24,5 dB", "dB", -24.5],
    ["-18 dBFS", "dB", -18],
    ["-1 dBTP", "dBTP", -1],
    ["4:1", ": 1", 4],
    ["2.5 : 1", ": 1", 2.5],
    ["50%", "", 0.5],
    ["50 %", "", 0.5],
    ["0.5", "", 0.5],
    ["12 dB/oct", "dB/oct", 12],
  ])("%s in %s is %d", (text, unit, value) => expect(parseQuantity(text, unit)).toBe(value));

  test.each([
    ["1 m", "ms"],
    ["2 kHz", "ms"],
    ["120 ms", "Hz"],
    ["10 dB", "Hz"],
    ["50 %", "dB"],
    ["fast", "ms"],
    ["1 2", "ms"],
    ["1..2", "ms"],
    ["", "ms"],
    ["12 db 4", "dB"],
  ])("%s in %s is not understood", (text, unit) => expect(parseQuantity(text, unit)).toBeNull());

  test.each([
    ["90", 90],
    ["1:30", 90],
    ["1:02:03.5", 3723.5],
    ["0:00,5", 0.5],
    ["800 ms", 0.8],
    ["1:x", null],
    ["soon", null],
  ])("the time %s is %s s", (text, value) => expect(parseTime(text)).toBe(value));
});
