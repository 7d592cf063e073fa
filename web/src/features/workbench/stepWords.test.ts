import { describe, expect, test } from "vitest";

import type { Point, Step } from "../../api/types";
import { levels } from "../../testing";
import { didHere, gist, remark, told } from "./stepWords";

const step = (type: string, params: Step["params"], enabled = true): Step => ({ type, enabled, params });
const point = (report: Point["report"]): Point => ({ type: "x", enabled: true, levels: levels(-1, -2, -3), report });

describe("words about steps", () => {
  test.each<[Step, string]>([
    [step("normalize", { target_db: -3 }), "peak −3 dB"],
    [step("noise_reduction", { depth_db: 12.5 }), "12.5 dB deep"],
    [step("eq", { bands: [{}] }), "1 band"],
    [step("eq", { bands: [{}, {}] }), "2 bands"],
    [step("compressor", { ratio: 2.5 }), "2.5 : 1"],
    [step("limiter", { ceiling_dbtp: -1 }), "−1 dBTP"],
    [step("loudness", { target: -16, measure: "lufs" }), "−16 LUFS"],
    [step("loudness", { target: -22, measure: "voice" }), "−22 voice"],
    [step("gain", { gain_db: 2 }, false), "off"],
    [step("something new", {}), ""],
  ])("the gist of %o is %s", (s, words) => expect(gist(s)).toBe(words));

  test("a report becomes rows in a fixed order; what is not a number is left out", () => {
    const rows = told("x", { max_reduction_db: 6.44, active_share: 0.485, gain_db: -3, other: "x", makeup_db: null });
    expect(rows.map((r) => `${r.label} ${r.value} ${r.unit}`)).toEqual([
      "Gain −3.0 dB",
      "Max reduction 6.4 dB",
      "Active 49 %",
    ]);
    expect(told("x", undefined)).toEqual([]);
  });

  test.each<[string, Point["report"], string[]]>([
    ["gate", { typical_reduction_db: 12, max_reduction_db: 12.4, active_share: 0.3, openings: 4 }, ["Gap reduction", "Max gap reduction", "Closed", "Times opened"]],
    ["compressor", { typical_reduction_db: 3, max_reduction_db: 6 }, ["Typical reduction", "Max reduction"]],
    ["declip", { crests: 12, rebuilt_db: 4.2, at_s: [1] }, ["Crests", "Highest crest, up"]],
    ["hum", { tones: 9, hum_dbfs: -51, drift_hz: 0.1 }, ["Tones", "Hum taken out", "Drift"]],
    ["leveller", { phrases: 8, spread_before_db: 9.1, spread_after_db: 1.4, max_lift_db: 5, max_reduction_db: 4 }, ["Loudest phrase, down", "Phrases", "Spread before", "Spread after", "Softest phrase, up"]],
    ["multiband", { typical_reduction_db: 3, active_share: 0.5 }, ["Typical, busiest band", "Active, busiest band"]],
    ["saturation", { max_reduction_db: 1 }, ["Highest peak rounded by"]],
    ["normalize", { gain_db: 3, gains_db: [3, 13] }, ["Gain, left", "Gain, right"]],
    ["normalize", { gain_db: 3, gains_db: [3, 3] }, ["Gain"]],
  ])("what a %s reports is called what it is", (type, report, labels) => {
    expect(told(type, report).map((row) => row.label)).toEqual(labels);
  });

  test("a remark is shown if there is one", () => {
    expect(remark(point({ note: "silence was left as it is" }))).toBe("silence was left as it is");
    expect(remark(point({ note: 3 }))).toBeNull();
  });
});

describe("what a step did, for its column", () => {
  const on = (type: string, enabled = true): Step => ({ type, enabled, params: {} });
  test.each([
    [on("compressor"), { typical_reduction_db: 1.44, max_reduction_db: 3.8 }, "−1.4 to −3.8 dB"],
    [on("leveller"), { spread_before_db: 9.1, spread_after_db: 1.4 }, "9.1 to 1.4 dB"],
    [on("noise_reduction"), { room_tone_change_db: -18 }, "room −18.0 dB"],
    [on("normalize"), { gain_db: 9 }, "+9.0 dB"],
    [on("limiter"), { max_reduction_db: 0.01 }, "not needed"],
    [on("limiter"), { max_reduction_db: 2.26 }, "max −2.3 dB"],
    [on("eq"), {}, null],
    [on("gate", false), { typical_reduction_db: 1, max_reduction_db: 2 }, null],
    [on("gate"), undefined, null],
  ])("is reported shortly, or not at all", (step, report, words) => {
    expect(didHere(step, report)).toBe(words);
  });
});
