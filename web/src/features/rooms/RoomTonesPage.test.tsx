import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";

import { serve, show } from "../../testing";
import { RoomTonesPage } from "./RoomTonesPage";

const profile = { level_dbfs: -55, bands: [{ freq_hz: 100, level_dbfs: -70 }, { freq_hz: 1000, level_dbfs: -65 }], tones_hz: [50, 120], warnings: [] };
const tone = (id: string, name: string, more: object = {}) => ({
  id, name, recording: `of-${id}`, recording_name: `Take ${id}`, start_s: 0.1, end_s: 2, level_dbfs: -55, used_by: 1, created_at: "2031-05-01T08:00:00Z",
  changes: [], changed_since: null, profile, ...more,
});

describe("the page of room tones", () => {
  it("puts samples of one room together, with what changed and what speaks against one", async () => {
    serve({
      "GET /api/room-tones/": [
        tone("b", "boat shed", { changes: ["4 dB noisier", "a new tone at 120 Hz"], changed_since: "2031-03-01T08:00:00Z" }),
        tone("a", "boat shed"),
        tone("d", "attic", { recording: null, recording_name: null }),
        tone("e", "cellar", { recording_deleted_at: "2031-05-02T08:00:00Z" }),
        tone("c", "kitchen", { profile: { ...profile, warnings: ["holds 2 clicks"] } }),
      ],
    });
    show(<RoomTonesPage />);
    const shed = await screen.findByRole("region", { name: "boat shed" });
    expect(within(shed).getAllByText(/−55.0 dBFS/)).toHaveLength(2);
    expect(within(shed).getByText(/4 dB noisier/)).toBeVisible();
    expect(within(shed).getByText(/a new tone at 120 Hz/)).toBeVisible();
    expect(within(screen.getByRole("region", { name: "attic" })).getByText(/from a recording that is gone/)).toBeVisible();
    const cellar = within(screen.getByRole("region", { name: "cellar" }));
    expect(cellar.getByText(/from Take e, which is deleted/)).toBeVisible();
    expect(cellar.queryByRole("link")).toBeNull();
    expect(within(screen.getByRole("region", { name: "kitchen" })).getByText(/holds 2 clicks/)).toBeVisible();
  });

  it("renames all samples of a room, and deletes one after asking", async () => {
    const asked = serve({
      "GET /api/room-tones/": [tone("b", "boat shed"), tone("a", "boat shed")],
      "PATCH /api/room-tones/a/": tone("a", "barn"), "PATCH /api/room-tones/b/": tone("b", "barn"), "DELETE /api/room-tones/b/": [204, null],
    });
    show(<RoomTonesPage />);
    const name = await screen.findByRole("textbox", { name: "Room or microphone" });
    await userEvent.clear(name);
    await userEvent.type(name, "barn");
    await userEvent.tab();
    await waitFor(() => expect(asked.filter((a) => a.method === "PATCH").map((a) => a.body)).toEqual([{ name: "barn" }, { name: "barn" }]));
    const [first] = await screen.findAllByRole("button", { name: /Delete/ });
    if (first) await userEvent.click(first);
    await userEvent.click(within(screen.getByRole("dialog")).getByRole("button", { name: "Delete" }));
    await waitFor(() => expect(asked.some((a) => a.method === "DELETE" && a.path === "/api/room-tones/b/")).toBe(true));
  });

  it("says what to do when there are none", async () => {
    serve({ "GET /api/room-tones/": [] });
    show(<RoomTonesPage />);
    expect(await screen.findByText(/drag over a stretch without speech/)).toBeVisible();
  });
});
