import { describe, expect, it } from "vitest";

import { placeOf, shade } from "./spectrogram";

describe("spectrograms", () => {
  it.each([
    [-120, 0],
    [-105, 0],
    [-67.5, 0.5],
    [-30, 1],
    [0, 1],
  ])("a level of %s dB is %s of the ink", (level, share) => expect(shade(level)).toBe(share));

  it.each([
    [40, 0],
    [400, 0.5],
    [4000, 1],
  ])("%s Hz lies at %s", (freq, place) => expect(placeOf(freq, [40, 400, 4000])).toBeCloseTo(place, 9));
});
