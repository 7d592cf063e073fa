import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";

import type { Recording } from "../../../api/types";
import { noEdits, type Edits } from "../../../audio/cutTimes";
import { serve, show } from "../../../testing";
import { withMarker } from "./markers";
import { TimingButton } from "./TimingButton";

const recording = { id: "r", name: "Causeway", state: "done", work_version: 3, duration_s: 30, measures: null, ...noEdits } as unknown as Recording;

async function open(part: string, edits: Edits = noEdits, answers: Record<string, unknown> = {}) {
  const asked = serve(answers);
  const acts = { onEdit: vi.fn(), onEnds: vi.fn(), onGoTo: vi.fn(), settle: vi.fn(() => Promise.resolve(true)) };
  show(<TimingButton recording={recording} edits={edits} nowS={() => 12.3456} {...acts} />);
  await userEvent.click(screen.getByRole("button", { name: /^Timing/ }));
  await userEvent.click(screen.getByRole("button", { name: part }));
  return { ...acts, asked };
}

const PAUSES = [
  { at_s: 4, length_s: 2, cut: { start_s: 4.4, end_s: 5.6 } },
  { at_s: 9, length_s: 1.5, cut: { start_s: 9.4, end_s: 10.1 } },
];

describe("pauses", () => {
  it("are listed, heard, refused, and the rest is cut", async () => {
    const own = { ...noEdits, cuts: [{ start_s: 0, end_s: 1 }] };
    const { onEdit, onGoTo, asked } = await open("Pauses", own, { "GET /api/recordings/r/pauses/": PAUSES });
    expect(await screen.findByText("2 longer pauses")).toBeInTheDocument();
    expect(asked).toHaveLength(1);
    await userEvent.click(screen.getByRole("button", { name: "Go to the pause at 0:09.0" }));
    expect(onGoTo).toHaveBeenCalledWith(8);
    await userEvent.click(screen.getByRole("checkbox", { name: "0:09.0, 1.5 s" }));
    await userEvent.click(screen.getByRole("button", { name: "Shorten 1, −1.2 s" }));
    expect(onEdit).toHaveBeenCalledWith({ cuts: [{ start_s: 0, end_s: 1 }, { start_s: 4.4, end_s: 5.6 }] });
  });

  it("say why there are none", async () => {
    await open("Pauses", noEdits, { "GET /api/recordings/r/pauses/": [400, { error: { message: "longest_s: must be at least 0.2", code: "bad_input" } }] });
    expect(await screen.findByRole("alert")).toHaveTextContent("at least 0.2");
    expect(screen.getByRole("button", { name: /^Shorten 0/ })).toBeDisabled();
  });
});

describe("inserts", () => {
  it("go to the playhead, in the length typed", async () => {
    const { onEdit } = await open("Insert");
    expect(screen.getByLabelText("At")).toHaveValue("12.35");
    const length = screen.getByLabelText("Length, s");
    await userEvent.clear(length);
    await userEvent.type(length, "800 ms{Enter}");
    expect(onEdit).toHaveBeenCalledWith({ inserts: [{ at_s: 12.35, length_s: 0.8, kind: "room_tone" }] });
  });

  it("are removed", async () => {
    const inserts = [{ at_s: 2, length_s: 1.5, kind: "silence" as const }, { at_s: 5, length_s: 1, kind: "room_tone" as const }];
    const { onEdit } = await open("Insert", { ...noEdits, inserts });
    expect(screen.getByText("Silence of 1.5 s at 0:02.00")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Remove the insert at 0:02.00" }));
    expect(onEdit).toHaveBeenCalledWith({ inserts: [inserts[1]] });
  });
});

describe("markers", () => {
  const markers = [{ at_s: 1, name: "Reeds" }, { at_s: 6, name: "Gulls" }];

  it("are set, renamed, removed and gone to", async () => {
    const { onEdit, onGoTo } = await open("Markers", { ...noEdits, markers });
    await userEvent.type(screen.getByLabelText("Name"), "Low water{Enter}");
    expect(onEdit).toHaveBeenLastCalledWith({ markers: [...markers, { at_s: 12.35, name: "Low water" }] });
    const name = screen.getByLabelText("Name of the marker at 0:06.00");
    await userEvent.clear(name);
    await userEvent.type(name, "Terns");
    await userEvent.tab();
    expect(onEdit).toHaveBeenLastCalledWith({ markers: [markers[0], { at_s: 6, name: "Terns" }] });
    await userEvent.click(screen.getByRole("button", { name: "Remove Reeds" }));
    expect(onEdit).toHaveBeenLastCalledWith({ markers: [markers[1]] });
    await userEvent.click(screen.getByRole("button", { name: "Go to Gulls" }));
    expect(onGoTo).toHaveBeenCalledWith(6);
  });

  it("split a recording once everything is kept, and the parts can be made a batch", async () => {
    const { settle, asked } = await open("Markers", { ...noEdits, markers }, { "POST /api/recordings/r/split/": [201, [{ id: "a", name: "Reeds" }, { id: "b", name: "Gulls" }]] });
    await userEvent.click(screen.getByRole("button", { name: "Split at markers" }));
    expect(await screen.findByText("2 recordings: Reeds, Gulls")).toBeInTheDocument();
    expect(settle).toHaveBeenCalled();
    expect(asked.map((a) => a.path)).toEqual(["/api/recordings/r/split/"]);
    expect(screen.getByRole("link", { name: "Batch these" })).toHaveAttribute("href", "/batches");
  });

  it("are not split while the server refuses the edits", async () => {
    const { settle, asked } = await open("Markers", { ...noEdits, markers });
    settle.mockResolvedValue(false);
    await userEvent.click(screen.getByRole("button", { name: "Split at markers" }));
    await waitFor(() => expect(settle).toHaveBeenCalled());
    expect(asked).toEqual([]);
  });

  it.each([
    [[], "", [{ at_s: 12.346, name: "Marker 1" }]],
    [[{ at_s: 20, name: "Gulls" }], " Reeds ", [{ at_s: 12.346, name: "Reeds" }, { at_s: 20, name: "Gulls" }]],
    [[{ at_s: 12.346, name: "Old" }], "New", [{ at_s: 12.346, name: "New" }]],
  ])("stay in order, one at each place: %j", (before, name, after) => expect(withMarker(before, 12.3456, name)).toEqual(after));
});
