import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";

import type { Recording } from "../../api/types";
import { serve, show } from "../../testing";
import { RoomToneChoice, SelectionTools } from "./RoomToneBar";

const recording = {
  id: "r", name: "Causeway", duration_s: 30, cuts: [{ start_s: 0, end_s: 2 }], room_tone: null,
  measures: { found_room_tone: { start_s: 1, end_s: 3 } },
} as unknown as Recording;
const tones = [
  { id: "t", name: "boat shed", recording: "x", recording_name: "Saltmarsh", start_s: 0, end_s: 2, level_dbfs: -55, used_by: 1 },
];

describe("tools of a selection", () => {
  it("are not there without one", () => {
    show(<SelectionTools recording={recording} selection={null} onSelect={vi.fn()} onCut={vi.fn()} />);
    expect(screen.queryByRole("group", { name: "Selection" })).toBeNull();
  });

  it("cut it out, keep it as room tone, or clear it", async () => {
    const asked = serve({ "POST /api/recordings/r/mark-room-tone/": recording });
    const selection = { startS: 1.25, endS: 3 };
    const [onSelect, onCut] = [vi.fn(), vi.fn()];
    show(<SelectionTools recording={recording} selection={selection} onSelect={onSelect} onCut={onCut} />);
    expect(screen.getByText("Selected 1.75 s")).toBeVisible();
    await userEvent.click(screen.getByRole("button", { name: "Cut out" }));
    expect(onCut).toHaveBeenCalledWith(selection);
    await userEvent.type(screen.getByLabelText("Room or microphone"), "boat shed");
    await userEvent.click(screen.getByRole("button", { name: "Keep as room tone" }));
    await waitFor(() => expect(onSelect).toHaveBeenCalledWith(null));
    expect(asked[0]?.body).toEqual({ start_s: 1.25, end_s: 3, name: "boat shed" });
    await userEvent.click(screen.getByRole("button", { name: "Clear" }));
    expect(onSelect).toHaveBeenLastCalledWith(null);
  });

  it("take typed edges and tell a refusal", async () => {
    serve({ "POST /api/recordings/r/mark-room-tone/": [400, { error: { code: "bad_input", message: "room tone: must last at least 0.05 s", path: null } }] });
    const onSelect = vi.fn();
    show(<SelectionTools recording={recording} selection={{ startS: 1, endS: 3 }} onSelect={onSelect} onCut={vi.fn()} />);
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
  it("tells where it was found, in times of the original, and offers kept ones", async () => {
    const asked = serve({ "GET /api/room-tones/": tones, "PUT /api/recordings/r/room-tone/": recording });
    const onSelect = vi.fn();
    show(<RoomToneChoice recording={recording} onSelect={onSelect} />);
    // A second of what is left lies at three of the original: two were cut off its head.
    await userEvent.click(screen.getByRole("button", { name: "Room tone: found at 0:03.0" }));
    await userEvent.click(await screen.findByRole("menuitem", { name: "boat shed, from Saltmarsh" }));
    await waitFor(() => expect(asked.find((a) => a.method === "PUT")?.body).toEqual({ room_tone: "t" }));
    await userEvent.click(screen.getByRole("button", { name: /^Room tone/ }));
    await userEvent.click(screen.getByRole("menuitem", { name: /^Mark a stretch/ }));
    expect(onSelect).toHaveBeenCalledWith({ startS: 3, endS: 5 });
  });
});
