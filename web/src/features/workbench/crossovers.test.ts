import { describe, expect, it } from "vitest";

import { bandNames, readCrossovers, withCrossovers } from "./crossovers";

describe("crossovers", () => {
  it.each([
    ["200, 3000", [200, 3000]],
    ["150 900;4000", [150, 900, 4000]],
    ["200 Hz, 3 kHz", [200, 3000]],
    ["0.2k 3k", [200, 3000]],
    ["200 dB", null],
    ["", null],
    ["two hundred", null],
  ])("reads %j", (text, expected) => {
    expect(readCrossovers(text)).toEqual(expected);
  });

  it.each([
    [1, 2],
    [2, 3],
    [3, 4],
  ])("keeps one band more than %i crossovers", (crossovers, bands) => {
    const params = { crossovers_hz: [200, 3000], bands: [{ ratio: 2 }, { ratio: 3 }, { ratio: 4 }] };
    const changed = withCrossovers(params, [100, 800, 5000].slice(0, crossovers));
    expect(changed.bands).toHaveLength(bands);
    expect((changed.bands as unknown as { ratio: number }[])[bands - 1]?.ratio).toBe(Math.min(4, bands + 1));
  });

  it("names bands by their edges", () => {
    expect(bandNames([200, 3000], (hz) => `${hz} Hz`)).toEqual(["Below 200 Hz", "200 Hz to 3000 Hz", "Above 3000 Hz"]);
  });
});
