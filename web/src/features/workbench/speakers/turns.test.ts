import { describe, expect, it } from "vitest";

import type { Speakers } from "../../../audio/cutTimes";
import { someRun } from "../../../testing";
import { foundBy, given, merged, parted, renamed, speaksS } from "./turns";

const TALK: Speakers = {
  names: ["Host", "Guest"],
  turns: [{ start_s: 0, end_s: 4, speaker: 0 }, { start_s: 4, end_s: 6, speaker: 1 }, { start_s: 7, end_s: 8, speaker: 0 }],
};
const who = (speakers: Speakers) => speakers.turns.map((turn) => speakers.names[turn.speaker]);

describe("corrections", () => {
  it.each([
    ["a turn of the other", given(TALK, 1, 0), ["Host", "Host", "Host"]],
    ["a turn of somebody else", given(TALK, 2, 2), ["Host", "Guest", "Speaker 3"]],
    ["one speaker who is the other", merged(TALK, 0, 1), ["Guest", "Guest", "Guest"]],
    ["a new name", renamed(TALK, 1, "Warden"), ["Host", "Warden", "Host"]],
    ["a turn that is two", parted(TALK, 0, 1.5), ["Host", "Host", "Guest", "Host"]],
    ["no place to part", parted(TALK, 0, 3.95), ["Host", "Guest", "Host"]],
  ])("%s", (_, after, names) => {
    expect(who(after)).toEqual(names);
    expect(who(TALK)).toEqual(["Host", "Guest", "Host"]);
  });

  it("leaves nobody without a turn, and counts seconds", () => {
    expect(merged(TALK, 0, 1).names).toEqual(["Guest"]);
    expect(speaksS(TALK)).toEqual([5, 2]);
    expect(parted(TALK, 0, 1.5).turns.slice(0, 2).map((turn) => [turn.start_s, turn.end_s])).toEqual([[0, 1.5], [1.5, 4]]);
  });
});

describe("turns of a run", () => {
  const point = { type: "leveller", enabled: true, levels: {}, report: { speakers: TALK } };

  it("are given in times of the original", () => {
    const run = someRun({ cuts: [{ start_s: 1, end_s: 3 }], points: [point] as never });
    expect(foundBy(run)?.turns.map((turn) => [turn.start_s, turn.end_s])).toEqual([[0, 6], [6, 8], [9, 10]]);
  });

  it.each([[null], [someRun()], [someRun({ points: [{ ...point, report: { speakers: { names: [], turns: [] } } }] as never })]])("are missing where none were found", (run) => {
    expect(foundBy(run)).toBeNull();
  });
});
