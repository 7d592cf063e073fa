import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";

import type { Recording } from "../../api/types";
import { noEdits } from "../../audio/cutTimes";
import { serve, show } from "../../testing";
import { reasons, RoomToneChoice } from "./RoomToneBar";
import { SelectionTools } from "./SelectionTools";

const recording = {
  id: "r", name: "Causeway", duration_s: 30, ...noEdits, cuts: [{ start_s: 0, end_s: 2 }], room_tone: null,
  measures: { room_tones: [{ start_s: 1, end_s: 3, level_dbfs: -55, level_spread_db: 0.8, above_quietest_db: 0.2 }] },
} as unknown as Recording;
const noAfter = { afterSound: null, afterEdits: noEdits };
const tones = [
  { id: "t", name: "boat shed", recording: "x", recording_name: "Saltmarsh", start_s: 0, end_s: 2, level_dbfs: -55, used_by: 1 },
];

describe("tools of a selection", () => {
  it("are not there without one", () => {
    show(<SelectionTools recording={recording} selection={null} onSelect={vi.fn()} onCut={vi.fn()} onPassage={vi.fn()} {...noAfter} />);
    expect(screen.queryByRole("group", { name: "Selection" })).toBeNull();
  });

  it("cut it out, keep it as room tone, or clear it", async () => {
    const asked = serve({
      "POST /api/recordings/r/mark-room-tone/": recording,
      "GET /api/recordings/r/figures/": { true_peak_dbtp: -12.3, rms_dbfs: -24, integrated_lufs: null },
      "GET /api/recordings/r/room-profile/": { level_dbfs: -40, bands: [{ freq_hz: 100, level_dbfs: -50 }], tones_hz: [], warnings: ["holds 1 click"] },
    });
    const selection = { startS: 1.25, endS: 3 };
    const [onSelect, onCut] = [vi.fn(), vi.fn()];
    show(<SelectionTools recording={recording} selection={selection} onSelect={onSelect} onCut={onCut} onPassage={vi.fn()} {...noAfter} />);
    expect(screen.getByText("Selected 1.75 s")).toBeVisible();
    expect(await screen.findByText(/LUFS/)).toHaveTextContent("before peak −12.3 dBTP, RMS −24.0 dBFS, loudness – LUFS");
    expect(await screen.findByText("As room tone: holds 1 click")).toBeVisible();
    expect(screen.getByRole("img", { name: /^Spectrum of the selection/ })).toHaveAccessibleName(/100 Hz with −50.0 dBFS/);
    await userEvent.click(screen.getByRole("button", { name: "Cut out" }));
    expect(onCut).toHaveBeenCalledWith(selection);
    await userEvent.type(screen.getByLabelText("Room or microphone"), "boat shed");
    await userEvent.click(screen.getByRole("button", { name: "Keep as room tone" }));
    await waitFor(() => expect(onSelect).toHaveBeenCalledWith(null));
    expect(asked.find((a) => a.method === "POST")?.body).toEqual({ start_s: 1.25, end_s: 3, name: "boat shed" });
    await userEvent.click(screen.getByRole("button", { name: "Clear" }));
    expect(onSelect).toHaveBeenLastCalledWith(null);
  });

  it("take typed edges and tell a refusal", async () => {
    serve({ "POST /api/recordings/r/mark-room-tone/": [400, { error: { code: "bad_input", message: "room tone: must last at least 0.05 s", path: null } }] });
    const onSelect = vi.fn();
    show(<SelectionTools recording={recording} selection={{ startS: 1, endS: 3 }} onSelect={onSelect} onCut={vi.fn()} onPassage={vi.fn()} {...noAfter} />);
    const edge = screen.getByLabelText("To, s");
    await userEvent.clear(edge);
    await userEvent.type(edge, "2,5");
    await userEvent.tab();
    expect(onSelect).toHaveBeenCalledWith({ startS: 1, endS: 2.5 });
    await userEvent.click(screen.getByRole("button", { name: "Keep as room tone" }));
    expect(await screen.findByRole("alert")).toHaveTextContent("at least 0.05 s");
  });
});

describe("the choice of room tone", () => {
  const shown = async (onSelect = vi.fn(), onListen = vi.fn()) => {
    const asked = serve({
      "GET /api/room-tones/": tones, "PUT /api/recordings/r/room-tone/": recording, "POST /api/recordings/r/mark-room-tone/": recording,
    });
    show(<RoomToneChoice recording={recording} onSelect={onSelect} onListen={onListen} />);
    // A second of what is left lies at three of the original: two were cut off its head.
    await userEvent.click(screen.getByRole("button", { name: "Room tone: at 0:03.0" }));
    return asked;
  };

  it("ranks what was found, with reasons, to listen to and to keep under a name", async () => {
    const onListen = vi.fn();
    const asked = await shown(vi.fn(), onListen);
    const dialog = screen.getByRole("dialog", { name: "Room tone" });
    expect(dialog).toHaveTextContent("0:03.0 to 0:05.0: −55.0 dBFS; long enough (2.0 s), steady (moves by 0.8 dB), as quiet as it gets here");
    await userEvent.click(screen.getByRole("button", { name: "Listen to 0:03.0" }));
    expect(onListen).toHaveBeenCalledWith(expect.objectContaining({ startS: 3, endS: 5 }));
    await userEvent.type(screen.getByLabelText("Room or microphone"), "boat shed");
    await userEvent.click(screen.getByRole("button", { name: "Keep 0:03.0 as room tone" }));
    await waitFor(() => expect(asked.find((a) => a.method === "POST")?.body).toEqual({ start_s: 3, end_s: 5, name: "boat shed" }));
  });

  it("tells of several gaps between words that noise is learned from", async () => {
    serve({ "GET /api/room-tones/": [] });
    const gap = { level_dbfs: -50, level_spread_db: 0.5, above_quietest_db: 0 };
    const room_tones = [{ ...gap, start_s: 1, end_s: 1.3, in_use: true }, { ...gap, start_s: 4, end_s: 4.1, in_use: true }, { ...gap, start_s: 7, end_s: 7.1, in_use: true }];
    const gappy = { ...recording, measures: { room_tones } } as unknown as Recording;
    show(<RoomToneChoice recording={gappy} onSelect={vi.fn()} onListen={vi.fn()} />);
    await userEvent.click(screen.getByRole("button", { name: "Room tone: in 3 places" }));
    expect(screen.getAllByText("in use")).toHaveLength(2);
    expect(screen.getByRole("dialog", { name: "Room tone" })).toHaveTextContent("2 gaps between words: 0.2 s in all, too short to keep");
    expect(screen.getAllByRole("button", { name: /^Keep/ })).toHaveLength(1);
  });

  it("uses one kept before", async () => {
    const asked = await shown();
    await userEvent.click(await screen.findByRole("button", { name: "Use boat shed, from Saltmarsh" }));
    await waitFor(() => expect(asked.find((a) => a.method === "PUT")?.body).toEqual({ room_tone: "t" }));
  });

  it("starts marking at the best of what was found", async () => {
    const onSelect = vi.fn();
    await shown(onSelect);
    await userEvent.click(screen.getByRole("button", { name: /^Mark another/ }));
    expect(onSelect).toHaveBeenCalledWith({ startS: 3, endS: 5 });
  });

  it.each([
    [0.5, 3, 2.5, "short (0.5 s), not steady (moves by 3.0 dB), 2.5 dB over the quietest"],
    [2, 1, 0.4, "long enough (2.0 s), steady (moves by 1.0 dB), as quiet as it gets here"],
  ])("says of %s s, %s dB, %s dB what it is worth", (length, moves, above, words) => expect(reasons(length, moves, above)).toBe(words));
});
