import { describe, expect, test } from "vitest";

import { clearOf, passageTag, placing, roomToneTag, shownCuts } from "./mirrorPlaces";

describe("marks of the time axis", () => {
  // A thousand pixels for a hundred seconds: ten a second.
  const place = placing({ startS: 0, endS: 100 }, 1000);

  test.each([
    // The passage's name stands from 247 to 353, a mark reaches 24 to either side.
    [{ startS: 10, endS: 50 }, [20, 22, 23, 30, 37, 38, 40], [20, 22, 38, 40]],
    // A passage too short for its name hides what lies between its grips, or nothing.
    [{ startS: 28, endS: 32 }, [26, 28, 30, 32, 34], [26, 34]],
  ])("passage %o leaves of %o", (passage, marks, left) => expect(clearOf([passageTag(passage, place)], marks, place)).toEqual(left));

  test.each([
    [{ startS: 10, endS: 11 }, { from: 100, to: 172 }],
    [{ startS: 10, endS: 40 }, { from: 100, to: 400 }],
  ])("room tone %o is named over %o", (tone, tag) => expect(roomToneTag(tone, place)).toEqual(tag));

  test("all marks stand where nothing is named", () => expect(clearOf([], [1, 2], place)).toEqual([1, 2]));
});

describe("cuts on the mirror", () => {
  const place = placing({ startS: 100, endS: 200 }, 1000);

  test("only those in view are drawn, and undo buttons never overlap", () => {
    const cuts = [0, 101, 102, 105, 150, 300].map((start_s) => ({ start_s, end_s: start_s + 1 }));
    expect(shownCuts(cuts, place).map(({ cut, hasUndo }) => [cut.start_s, hasUndo])).toEqual([[101, true], [102, false], [105, true], [150, true]]);
  });

  test("thousands of cuts leave as many buttons as there is room for", () => {
    const cuts = Array.from({ length: 3000 }, (_, i) => ({ start_s: 100 + i / 30, end_s: 100 + i / 30 + 0.01 }));
    expect(shownCuts(cuts, place).filter(({ hasUndo }) => hasUndo).length).toBeLessThan(37);
  });
});
