import { screen, within } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";

import type { Measures, Recording, Run } from "../../api/types";
import { serve, show, someRun } from "../../testing";
import { clientPage, clientPageHolds } from "./clientPage";
import { ComparePage } from "./ComparePage";
import { asCsv, measureRows, thirdOctaves } from "./measureRows";

vi.mock("react-router", async (load) => ({ ...(await load<object>()), useParams: () => ({ recordingId: "rec-1" }) }));

const spectrum = (tilt: number) => [100, 1000, 10000].map((freq_hz, i) => ({ freq_hz, level_dbfs: -40 + tilt * i }));
const before = { integrated_lufs: -30.04, true_peak_dbtp: -12, clearance_db: null, noise_floor_dbfs: null, spectrum: spectrum(0) } as Measures;
const after = { integrated_lufs: -19.96, true_peak_dbtp: -1, clearance_db: 45, voice_level_dbfs: -15, noise_floor_dbfs: -60, spectrum: [...spectrum(3), { freq_hz: 99, level_dbfs: null }] } as Measures;
const run = (more: Partial<Run> = {}) => someRun({ before, after, differences: ["10.1 LU louder", "clearance 20 dB better"], ...more });

describe("the comparison", () => {
  it("takes differences from the shown figures, and none where a side is not known", () => {
    const rows = Object.fromEntries(measureRows(before, after).map((r) => [r.name, r.change]));
    expect(rows).toMatchObject({ integrated_lufs: 10, true_peak_dbtp: 11, clearance_db: null, noise_floor_dbfs: null, rms_dbfs: null });
    // -29.66 and -55.14 are shown as -29.7 and -55.1: the clearance beside them is 25.4, not 25.5.
    const shown = { ...before, voice_level_dbfs: -29.66, noise_floor_dbfs: -55.14, clearance_db: 25.48 };
    expect(measureRows(shown, after).find((r) => r.name === "clearance_db")).toMatchObject({ before: 25.4, after: 45, change: 19.6 });
    expect(thirdOctaves(before, after)).toEqual([
      { freqHz: 100, before: -40, after: -40 }, { freqHz: 1000, before: -40, after: -37 }, { freqHz: 10000, before: -40, after: -34 },
    ]);
  });

  it("is a file of comma-separated values", () => {
    const lines = asCsv(before, after).split("\r\n");
    expect(lines[0]).toBe('"Measure","Unit","Before","After","Difference"');
    expect(lines).toContain('"Noise floor","dBFS",,"-60",');
    expect(lines).toContain('"Third octave at 1000 Hz","dBFS","-40","-37","3"');
  });

  const open = (runs: Run[], recording: Partial<Recording> = {}) =>
    serve({
      "GET /api/runs/": runs, "GET /api/recordings/rec-1/": { id: "rec-1", name: "Hide guide", chain: [], target: "t", cuts: [], state: "done", ...recording },
      "GET /api/recordings/": [], "GET /api/recipes/": [], "GET /api/step-types/": [], "GET /api/runs/run-1/time-series/": [404, {}],
      "GET /api/runs/run-1/spectrogram/": [404, {}],
      "GET /api/targets/": [{ id: "t", name: "Ours", bounds: { integrated_lufs: { low: -21, high: -19 }, true_peak_dbtp: { high: -2 } }, file: {}, sentences: [] }],
    });

  it("is put in words, a table with the target and a picture", async () => {
    open([run({ state: "failed" }), run()]);
    show(<ComparePage />);
    expect(await screen.findByRole("status")).toHaveTextContent("10.1 LU louder; clearance 20 dB better.");
    const table = within(screen.getByRole("table", { name: "Measures" }));
    expect(await table.findByRole("row", { name: /^Loudness, LUFS/ })).toHaveTextContent("−30.0−20.0+10.0 −21.0 to −19.0, met");
    expect(table.getByRole("row", { name: /^True peak/ })).toHaveTextContent("at most −2.0, not met");
    expect(screen.getByRole("img", { name: /changed most at 100 Hz, by −10.0 dB/ })).toBeInTheDocument();
    expect(screen.getByRole("link", { name: "Figures as CSV" })).toHaveAttribute("download");
    expect(screen.getByRole("link", { name: "Page for a client" })).toHaveAttribute("href", "/api/runs/run-1/client-page/");
  });

  it.each([
    [30, null, "", "Holds the whole"],
    [2000, null, "", "Holds 0:00.0 to 10:00.0; drag over the loudness to choose another stretch"],
    [2000, { startS: 60, endS: 90.5 }, "?start_s=60&end_s=90.5", "Holds 1:00.0 to 1:30.5; as the pictures do"],
    [2000, { startS: 60, endS: 1900 }, "?start_s=60&end_s=1900", "Holds 1:00.0 to 11:00.0; as the pictures do"],
  ])("gives a client what is looked at, ten minutes at most", (duration_s, span, query, words) => {
    const whole = run({ duration_s });
    expect(clientPage(whole, span)).toBe(`/api/runs/run-1/client-page/${query}`);
    expect(clientPageHolds(whole, span)).toBe(words);
  });

  it.each([
    [[], "Nothing to compare yet"],
    [[run({ state: "running", before: null })], "Nothing to compare yet"],
  ])("says what to do first", async (runs, words) => {
    open(runs);
    show(<ComparePage />);
    expect(await screen.findByRole("heading", { name: words })).toBeVisible();
    expect(screen.getByRole("link", { name: "Go to the workbench" })).toHaveAttribute("href", "/recordings/rec-1");
  });

  it("says when nothing would be heard, and when it cannot be determined", async () => {
    open([run({ differences: [] })]);
    const { unmount } = show(<ComparePage />);
    expect(await screen.findByText("Nothing that would be heard has changed.")).toBeVisible();
    unmount();
    serve({ "GET /api/runs/": [400, { error: { message: "recording: must be an id", code: "bad_input", path: null } }] });
    show(<ComparePage />);
    expect(await screen.findByText(/recording: must be an id/)).toBeVisible();
  });
});
