import { describe, expect, it } from "vitest";

import type { SettingRecord, Step, StepType } from "../../api/types";
import { noEdits } from "../../audio/cutTimes";
import { numberSetting } from "../../testing";
import { differences } from "../../chains/differences";
import { changeName } from "./chainWords";

const number = (name: string, label: string, unit: string) => ({ ...numberSetting, name, label, unit });
const types = [
  { type: "gain", label: "Gain", settings: [number("gain_db", "Gain", "dB")] },
  { type: "gate", label: "Gate", settings: [{ ...numberSetting, name: "follow_voice", label: "Follow the voice", kind: "switch" }] },
  { type: "eq", label: "EQ", settings: [{ ...numberSetting, name: "bands", label: "Bands", kind: "records", record: [number("freq_hz", "Frequency", "Hz"), number("gain_db", "Gain", "dB")] }] },
] as unknown as StepType[];
const gain = (gain_db: number, enabled = true): Step => ({ type: "gain", enabled, params: { gain_db } });
const gate = (follow_voice = false): Step => ({ type: "gate", enabled: true, params: { follow_voice } });
const eq = (...bands: SettingRecord[]): Step => ({ type: "eq", enabled: true, params: { bands } });
const band = (freq_hz: number, gain_db: number) => ({ freq_hz, gain_db });

describe("what differs between chains", () => {
  it.each([
    [[gain(1)], [gain(1)], []],
    [[gain(2)], [gain(3.5)], ["Gain: gain 2 dB to 3.5 dB"]],
    [[gain(2)], [gain(2, false)], ["Gain switched off"]],
    [[], [gate()], ["Gate added"]],
    [[gate(), gain(1)], [gain(1)], ["Gate removed"]],
    [[gate(), gain(1)], [gain(1), gate()], ["Gate moved"]],
    [[gate()], [gate(true)], ["Gate: follow the voice off to on"]],
    [[gain(1)], [gain(1), gain(1)], ["Gain added"]],
    [[eq(band(400, -3))], [eq(band(420, -3))], ["EQ: band 1, frequency 400 Hz to 420 Hz"]],
    [[eq(band(400, -3))], [eq(band(400, -3), band(3000, 2))], ["EQ: band added"]],
    [[gain(1), gate()], [gain(2)], ["Gain: gain 1 dB to 2 dB", "Gate removed"]],
  ])("is reported in short words", (from, to, words) => {
    expect(differences(from, to, types)).toEqual(words);
  });

  it("names an undo, cuts included, and never at length", () => {
    const work = (steps: Step[], edits = noEdits) => ({ steps, edits });
    const cut = { ...noEdits, cuts: [{ start_s: 1, end_s: 2 }] };
    expect(changeName(undefined, work([]), types)).toBeNull();
    expect(changeName(work([]), work([], cut), types)).toBe("cut");
    expect(changeName(work([], cut), work([]), types)).toBe("cut taken back");
    expect(changeName(work([]), work([], { ...noEdits, mono: "left" }), types)).toBe("mono from left");
    expect(changeName(work([]), work([gain(1), gate(), eq()]), types)).toBe("Gain added and 2 more");
  });
});
