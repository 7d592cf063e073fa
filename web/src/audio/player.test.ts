import { describe, expect, test } from "vitest";

import { sideGains } from "./playback";

const half = 10 ** (-6 / 20);

describe("what is heard", () => {
  test.each([
    ["before", false, 6, 1, 0],
    ["after", false, 6, 0, 1],
    ["removed", false, 6, -1, 1],
    ["after", true, 6, 0, half],
    ["before", true, 6, 1, 0],
    ["before", true, -6, half, 0],
    ["after", true, -6, 0, 1],
    ["removed", true, 6, -1, half],
    ["after", true, null, 0, 1],
  ] as const)("%s, matched %s, after %s dB louder", (side, matched, louderDb, before, after) => {
    const gains = sideGains(side, matched, louderDb);
    expect(gains.before).toBeCloseTo(before, 9);
    expect(gains.after).toBeCloseTo(after, 9);
  });
});
