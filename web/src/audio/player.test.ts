import { describe, expect, test } from "vitest";

import { sideGains } from "./playback";

const half = 10 ** (-6 / 20);

describe("what is heard", () => {
  test.each([
    ["before", false, 6, 1, 0],
    ["after", false, 6, 0, 1],
    ["removed", false, 6, -1, half],
    ["removed", false, -6, -half, 1],
    ["removed", false, null, -1, 1],
    ["after", true, 6, 0, half],
    ["before", true, 6, 1, 0],
    ["before", true, -6, half, 0],
    ["after", true, -6, 0, 1],
    ["removed", true, 6, -1, half],
    ["after", true, null, 0, 1],
  ] as const)("%s, matched %s, after %s dB louder", (side, matched, louderDb, before, after) => {
    const gains = sideGains(side, matched, { louderDb, voiceGainDb: null });
    expect(gains.before).toBeCloseTo(before, 9);
    expect(gains.after).toBeCloseTo(after, 9);
  });

  test("what is removed is heard at equal gain of the voice, which counts more than loudness", () => {
    for (const matched of [true, false]) {
      const gains = sideGains("removed", matched, { louderDb: 1, voiceGainDb: 6 });
      expect(gains.before).toBe(-1);
      expect(gains.after).toBeCloseTo(half, 9);
    }
  });
});
