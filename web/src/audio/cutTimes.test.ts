import { describe, expect, it } from "vitest";

import { cutAwayS, keptStretches, noEdits, pastCuts, sameEdits, toLeft, toOriginal } from "./cutTimes";

const cuts = [
  { start_s: 0, end_s: 1 },
  { start_s: 4, end_s: 6 },
];
const edits = { ...noEdits, cuts };
const padded = { ...edits, pad_start_s: 0.5 };

describe("times with and without cuts", () => {
  it("keeps what lies between", () => {
    expect(keptStretches(edits, 10)).toEqual([
      { startS: 1, endS: 4, leftS: 0 },
      { startS: 6, endS: 10, leftS: 3 },
    ]);
    expect(keptStretches(noEdits, 2)).toEqual([{ startS: 0, endS: 2, leftS: 0 }]);
    expect(cutAwayS(cuts)).toBe(3);
  });

  it.each([
    [0, 0],
    [0.5, 0],
    [1, 0],
    [3, 2],
    [5, 3],
    [6, 3],
    [10, 7],
  ])("original %s is %s in what is left", (original, left) => {
    expect(toLeft(original, edits)).toBe(left);
    expect(toLeft(original, padded)).toBe(left + 0.5);
  });

  it.each([
    [0, 1],
    [2, 3],
    [3, 6],
    [7, 10],
  ])("%s in what is left is original %s", (left, original) => {
    expect(toOriginal(left, edits)).toBe(original);
    expect(toOriginal(left + 0.5, padded)).toBe(original);
  });

  it.each([
    [0.2, 1],
    [4, 6],
    [6, 6],
    [2, 2],
  ])("goes on from %s at %s", (at, on) => {
    expect(pastCuts(at, cuts)).toBe(on);
  });

  it("begins before the recording where tone was added", () => {
    expect(toOriginal(0.2, padded)).toBe(1);
    expect(keptStretches(padded, 10)[0]).toEqual({ startS: 1, endS: 4, leftS: 0.5 });
  });

  it("compares", () => {
    expect(sameEdits(edits, { ...edits, cuts: [...cuts] })).toBe(true);
    expect(sameEdits(edits, { ...edits, cuts: cuts.slice(1) })).toBe(false);
    expect(sameEdits(edits, padded)).toBe(false);
    expect(sameEdits(edits, { ...edits, mono: "left" })).toBe(false);
  });
});
