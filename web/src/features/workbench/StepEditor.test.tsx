import { fireEvent, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { Params, Step, StepPicture, StepType } from "../../api/types";
import { numberSetting, serve, show } from "../../testing";
import { followed, StepEditor } from "./StepEditor";

const freqs_hz = [50, 100, 1000, 10000];
const flat = freqs_hz.map(() => -40);
const levels = { lowest_dbfs: -90, before: new Array<number>(90).fill(1 / 90), after: new Array<number>(90).fill(1 / 90) };
const picture: StepPicture = {
  spectrum: { freqs_hz, before: flat, after: flat, tone_before: flat, tone_after: flat }, levels, work: [[0, -3, null, -6]],
  curve: { in_dbfs: [-80, -40, 0], out_dbfs: [-80, -40, -10] }, response_db: [0, 0, 0, 0], depth_db: [12, 12, 12, 12],
  resonances: [{ freq_hz: 180, over_db: 3.4 }], decay: { bin_s: 0.01, levels_db: [0, -30, -61] },
};
const setting = (name: string, label: string, more: object = {}) => ({ ...numberSetting, name, label, ...more });
const bandFields = [
  setting("freq_hz", "Frequency", { unit: "Hz", default: 1000, low: 20, high: 20000 }), setting("gain_db", "Gain", { default: 0, low: -24, high: 24 }),
  setting("q", "Q", { default: 1, low: 0.1, high: 30 }), setting("slope_db_oct", "Slope", { kind: "choice", default: 12, choices: [12, 24] }),
];

function showEditor(type: string, params: Params, settings: object[], report: Record<string, unknown> = {}) {
  serve({ "GET /api/saved-settings/": [] });
  const acts = { onSet: vi.fn(), onRemove: vi.fn(), onTry: vi.fn() };
  const step: Step = { type, enabled: true, params };
  const declared = { type, label: type, summary: "does things", settings, starters: [] } as unknown as StepType;
  show(<StepEditor step={step} type={declared} sentence="Does this." point={{ report }} picture={picture} at={null} voiceDbfs={-20} {...acts} />);
  return acts;
}

beforeEach(() => {
  SVGElement.prototype.setPointerCapture = vi.fn();
  SVGElement.prototype.hasPointerCapture = () => true;
});

const bell = { type: "bell", freq_hz: 1000, gain_db: -3, q: 1, slope_db_oct: 12, enabled: true };

describe("the editor of a step", () => {
  it.each([
    ["compressor", { threshold_db: -18, quiet_guard_db: -40 }, { threshold_dbfs: -18 }, /^compressor: out over in. The voice comes in at/],
    ["limiter", { ceiling_dbtp: -1 }, {}, /^limiter: out over in/],
    ["gate", { threshold_db: -45, mode: "gate", hysteresis_db: 4, floor_db: -12 }, { threshold_dbfs: -45 }, /opens −45.0/],
    ["normalize", { target_db: -3 }, {}, /^normalize: levels of the passage/],
    ["loudness", { target: -19, ceiling_dbtp: -1 }, {}, /target −19.0, ceiling −1.0/],
    ["noise_reduction", { depth_db: 12, depth_curve: [] }, {}, /12.0 dB deep everywhere/],
    ["de_esser", { low_hz: 5000, high_hz: 9000 }, {}, /works from 5 kHz to 9 kHz/],
    ["ambience", { mix: 0.1 }, {}, /rings on for 0.02 s/],
  ])("shows %s at work, in words too", (type, params, report, words) => {
    showEditor(type, params, [], report);
    expect(screen.getByLabelText(words)).toBeInTheDocument();
    expect(screen.getByText("Does this.")).toBeInTheDocument();
  });

  it.each([["statistics", true], ["voice_model", false]])("shows what has an effect by the method %s", async (method, isShown) => {
    const settings = [setting("margin_db", "Margin"), setting("release_ms", "Release")];
    showEditor("noise_reduction", { depth_db: 12, depth_curve: [], method, margin_db: 0, release_ms: 0 }, settings);
    await userEvent.click(screen.getByRole("button", { name: "More settings" }));
    expect(screen.getAllByLabelText(/^Margin/).length).toBeGreaterThan(0);
    expect(screen.queryAllByLabelText(/^Release/).length > 0).toBe(isShown);
  });

  it("moves an EQ band by keys and drags it in one gesture", async () => {
    const { onSet } = showEditor("eq", { bands: [bell] }, [setting("bands", "Bands", { kind: "records", record: bandFields })]);
    const handle = screen.getByRole("slider", { name: "Bell, band 1" });
    handle.focus();
    await userEvent.keyboard("{ArrowUp}");
    expect(onSet).toHaveBeenLastCalledWith({ bands: [{ ...bell, gain_db: -2.5 }] }, expect.any(String));
    await userEvent.keyboard("{ArrowRight}");
    expect(onSet).toHaveBeenLastCalledWith({ bands: [{ ...bell, freq_hz: 1029 }] }, expect.any(String));
    await userEvent.keyboard("]");
    expect(onSet).toHaveBeenLastCalledWith({ bands: [{ ...bell, q: 1.15 }] }, expect.any(String));
    fireEvent.pointerDown(handle, { pointerId: 1 });
    fireEvent.pointerMove(handle, { pointerId: 1, clientX: 100, clientY: 40 });
    fireEvent.pointerMove(handle, { pointerId: 1, clientX: 120, clientY: 60 });
    const [first, second] = onSet.mock.calls.slice(-2).map((call) => call[1] as string);
    expect(first).toBe(second);
    await userEvent.keyboard("{Delete}");
    expect(onSet).toHaveBeenLastCalledWith({ bands: [] }, undefined);
  });

  it("hunts, and offers what stands out to hear and to cut", async () => {
    const { onSet, onTry } = showEditor("eq", { bands: [bell] }, [setting("bands", "Bands", { kind: "records", record: bandFields })]);
    const handle = screen.getByRole("slider", { name: "Bell, band 1" });
    fireEvent.keyDown(handle, { key: "h" });
    expect(onSet).toHaveBeenLastCalledWith({ bands: [{ ...bell, gain_db: 10, q: 8 }] }, expect.any(String));
    fireEvent.keyUp(handle, { key: "h" });
    expect(onSet).toHaveBeenLastCalledWith({ bands: [{ ...bell, gain_db: -4, q: 4 }] }, expect.any(String));
    fireEvent.pointerDown(screen.getByRole("button", { name: "Listen to 180 Hz" }));
    expect(onTry).toHaveBeenLastCalledWith({ bands: [bell, expect.objectContaining({ freq_hz: 180, gain_db: 10 })] });
    fireEvent.pointerUp(screen.getByRole("button", { name: "Listen to 180 Hz" }));
    expect(onTry).toHaveBeenLastCalledWith(null);
    await userEvent.click(screen.getByRole("button", { name: "Cut at 180 Hz" }));
    expect(onSet).toHaveBeenLastCalledWith({ bands: [bell, expect.objectContaining({ freq_hz: 180, gain_db: -3.5 })] }, undefined);
  });

  it("draws the depth of noise reduction", async () => {
    const { onSet } = showEditor("noise_reduction", { depth_db: 12, depth_curve: [] }, []);
    screen.getByRole("slider", { name: "Depth at 1 kHz" }).focus();
    await userEvent.keyboard("{ArrowDown}");
    const [{ depth_curve }] = onSet.mock.calls[0] as [{ depth_curve: { freq_hz: number; depth_db: number }[] }];
    expect(depth_curve.find((p) => p.freq_hz === 1000)?.depth_db).toBe(13);
    expect(depth_curve.filter((p) => p.depth_db === 12)).toHaveLength(depth_curve.length - 1);
  });

  it("hides what is seldom turned, and keeps thresholds in place when it begins to follow", async () => {
    const settings = [setting("ratio", "Ratio"), setting("mix", "Mix"), setting("follow_voice", "Follow the voice", { kind: "switch" })];
    const params = { ratio: 2, mix: 1, follow_voice: false, threshold_db: -18, quiet_guard_db: -40 };
    const { onSet } = showEditor("compressor", params, settings);
    expect(screen.queryByLabelText("Mix", { exact: true })).toBeNull();
    await userEvent.click(screen.getByRole("button", { name: "More settings" }));
    expect(screen.getByLabelText("Mix", { exact: true })).toBeInTheDocument();
    await userEvent.click(screen.getByLabelText("Follow the voice"));
    expect(onSet).toHaveBeenLastCalledWith({ follow_voice: true, threshold_db: 2, quiet_guard_db: -20 }, undefined);
    expect(followed({ threshold_db: 2 }, false, -20)).toEqual({ follow_voice: false, threshold_db: -18 });
    expect(followed({ threshold_db: -18 }, true, null)).toEqual({ follow_voice: true, threshold_db: -18 });
  });
});
