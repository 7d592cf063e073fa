import { describe, expect, it } from "vitest";

import { cutAwayS, editsOf, editedDurationS, keptStretches, noEdits, pastCuts, sameEdits, sameSound, toLeft, toOriginal, type Edits } from "./cutTimes";

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

describe("what is put in", () => {
  // As in the core's own table: a cut of 3 to 5 s, 1 s put in at 6, half a second at the head.
  const put: Edits = { ...noEdits, cuts: [{ start_s: 3, end_s: 5 }], inserts: [{ at_s: 6, length_s: 1, kind: "silence" }], pad_start_s: 0.5 };

  it.each([
    [0, 0.5], [2, 2.5], [3, 3.5], [4, 3.5], [5, 3.5], [6, 4.5], [6.5, 6], [9, 8.5],
  ])("original %s is heard at %s", (original, left) => expect(toLeft(original, put)).toBeCloseTo(left));

  it.each([
    [0.2, 0], [2.5, 2], [3.5, 5], [4.4, 5.9], [4.6, 6], [5.4, 6], [5.6, 6.1], [8.5, 9],
  ])("what is heard at %s is original %s", (left, original) => expect(toOriginal(left, put)).toBeCloseTo(original));

  it("parts what is kept, and makes it longer", () => {
    expect(keptStretches(put, 10)).toEqual([
      { startS: 0, endS: 3, leftS: 0.5 },
      { startS: 5, endS: 6, leftS: 3.5 },
      { startS: 6, endS: 10, leftS: 5.5 },
    ]);
    expect(editedDurationS(put, 10)).toBeCloseTo(9.5);
  });

  it("goes with a cut around it, and stays at the edge of one", () => {
    const inside = { ...put, inserts: [{ at_s: 4, length_s: 1, kind: "silence" as const }] };
    expect(toLeft(9, inside)).toBeCloseTo(7.5);
    const atEdge = { ...put, inserts: [{ at_s: 5, length_s: 1, kind: "silence" as const }] };
    expect(toLeft(9, atEdge)).toBeCloseTo(8.5);
  });

  it("markers change no sound", () => {
    const marked = { ...put, markers: [{ at_s: 1, name: "Reeds" }] };
    expect(sameSound(put, marked)).toBe(true);
    expect(sameEdits(put, marked)).toBe(false);
    expect(sameSound(put, { ...put, fade_in_s: 1 })).toBe(false);
  });

  it("edits that an older version kept know of nothing newer", () => {
    expect(editsOf({ cuts: [], mono: "left" })).toEqual({ ...noEdits, mono: "left" });
  });
});
