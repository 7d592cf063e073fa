import { describe, expect, it } from "vitest";

import type { Setting } from "../api/types";
import { numberSetting } from "../testing";
import { choiceWord, isShare, unitOf, withUnit } from "./settingWords";

const mix = { ...numberSetting, name: "mix", unit: "", low: 0, high: 1 };
const target: Setting = { ...numberSetting, unit: "dB", unit_by: { setting: "measure", units: { lufs: "LUFS", rms: "dBFS" } } };
const measure = { ...numberSetting, kind: "choice", choices: ["lufs", "rms"], words: { lufs: "Loudness (LUFS)" } } as Setting;

describe("settings as people read them", () => {
  it("shares of one are percent; other plain numbers are not", () => {
    expect([isShare(mix), unitOf(mix)]).toEqual([true, "%"]);
    expect(isShare({ ...mix, high: 10 })).toBe(false);
    expect(unitOf(numberSetting)).toBe("dB");
  });

  it.each([
    [{ measure: "lufs" }, "LUFS"],
    [{ measure: "rms" }, "dBFS"],
    [{ measure: "something new" }, "dB"],
    [{}, "dB"],
  ])("a choice decides the unit: %j", (params, unit) => expect(withUnit(target, params).unit).toBe(unit));

  it("a choice is called by its word, if it has one", () => {
    expect([choiceWord(measure, "lufs"), choiceWord(measure, "rms"), choiceWord(measure, 12)]).toEqual(["Loudness (LUFS)", "rms", "12"]);
  });
});
