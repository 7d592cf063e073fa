import { describe, expect, test } from "vitest";

import { columns, heightOf } from "./waveform";

describe("waveform", () => {
  test.each([
    [1, "dB", 1],
    [0, "dB", 0],
    [10 ** (-36 / 20), "dB", 0.5],
    [1e-9, "dB", 0],
    [0.25, "linear", 0.25],
    [2, "linear", 1],
  ] as const)("magnitude %s on the %s scale is %s high", (magnitude, scale, height) => {
    expect(heightOf(magnitude, scale)).toBeCloseTo(height, 6);
  });

  test("a column has the largest peak and the mean power of its bins", () => {
    const overview = {
      bin_s: 1, start_s: 0, low: [-0.1, -0.9, -0.2, -0.1], high: [0.5, 0.2, 0.3, 0.1], rms: [0.3, 0.4, 0.1, 0.1],
    };
    const [first, second] = columns(overview, 0, 4, 2);
    expect(first?.peak).toBe(0.9);
    expect(first?.average).toBeCloseTo(Math.sqrt((0.09 + 0.16) / 2), 9);
    expect(second?.peak).toBe(0.3);
  });

  test("more columns than bins repeat bins, beyond the end is empty", () => {
    const overview = { bin_s: 1, start_s: 0, low: [-1], high: [1], rms: [0.5] };
    expect(columns(overview, 0, 2, 4).map((c) => c.peak)).toEqual([1, 1, 0, 0]);
  });
});
