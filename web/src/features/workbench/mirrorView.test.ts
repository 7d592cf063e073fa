import { describe, expect, it } from "vitest";

import { axisMarks, isWhole, moved, showing, zoomed } from "./mirrorView";

const whole = { startS: 0, endS: 100 };

describe("what the mirror shows", () => {
  it("keeps the place under the pointer while zooming", () => {
    const view = zoomed(whole, 25, 4, 100);
    expect(view).toEqual({ startS: 18.75, endS: 43.75 });
    expect((25 - view.startS) / 25).toBe(0.25);
  });

  it.each([
    ["never wider than the recording", zoomed({ startS: 10, endS: 20 }, 15, 0.01, 100), whole],
    ["to some thirty samples", zoomed(whole, 50, 1e9, 100), { startS: 49.99965, endS: 50.00035 }],
    ["not over the start", moved({ startS: 5, endS: 15 }, -50, 100), { startS: 0, endS: 10 }],
    ["not over the end", moved({ startS: 5, endS: 15 }, 500, 100), { startS: 90, endS: 100 }],
    ["not at all when it is seen", showing({ startS: 5, endS: 15 }, 7, 100), { startS: 5, endS: 15 }],
    ["to what is played", showing({ startS: 5, endS: 15 }, 60, 100), { startS: 59, endS: 69 }],
  ])("goes %s", (_, view, wanted) => {
    expect(view.startS).toBeCloseTo(wanted.startS, 6);
    expect(view.endS).toBeCloseTo(wanted.endS, 6);
    expect(isWhole(view, 100)).toBe(wanted === whole);
  });

  it.each([
    [{ startS: 0, endS: 31 }, [5, 10, 15, 20, 25, 30], 0],
    [{ startS: 2.02, endS: 2.33 }, [2.05, 2.1, 2.15, 2.2, 2.25, 2.3], 2],
    [{ startS: 1, endS: 1.001 }, [1.0001, 1.0003, 1.0005], 4],
  ])("marks times of %j", (view, some, decimals) => {
    const marks = axisMarks(view, 800, 60);
    expect(marks.decimals).toBe(decimals);
    for (const atS of some) expect(marks.atS.some((m) => Math.abs(m - atS) < 1e-9)).toBe(true);
  });
});
