import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";

import type { Laid, Recording } from "../../api/types";
import { numberSetting, serve, show, someRun } from "../../testing";
import { BedPage } from "./BedPage";
import { DistancePicture } from "./DistancePicture";

vi.mock("react-router", async (load) => ({ ...(await load<object>()), useParams: () => ({ recordingId: "rec-1" }) }));

const settings = ["voice_start_s", "dip_db", "tail_s"].map((name) => ({ ...numberSetting, name, label: name, low: 0, high: 40, default: 3 }));
const told: Laid = { sample_rate_hz: 48000, channels: 1, duration_s: 10, step_s: 2, distance_db: [null, 18, 22, null, 60], bed_gain_db: [0, -12, -12, -6, 0], typical_db: 20, least_db: 12.5 };

describe("a voice over a bed", () => {
  it("says what to do before there is a result, and before there is a bed", async () => {
    serve({ "GET /api/runs/": [], "GET /api/bed-settings/": settings, "GET /api/beds/": [] });
    const { unmount } = show(<BedPage />);
    expect(await screen.findByRole("heading", { name: "Nothing to lay on a bed yet" })).toBeInTheDocument();
    unmount();
    serve({ "GET /api/runs/": [someRun()], "GET /api/bed-settings/": settings, "GET /api/beds/": [] });
    show(<BedPage />);
    expect(await screen.findByText(/bring in a piece of music/)).toBeInTheDocument();
    expect(screen.getByRole("button", { name: "Deliver the mix" })).toBeDisabled();
  });

  it("tells what the server objects to", async () => {
    const fault = { error: { code: "bad_input", message: "bed: is silent; choose another", path: "bed" } };
    serve({ "GET /api/runs/": [someRun()], "GET /api/bed-settings/": settings, "GET /api/beds/": [{ id: "b", name: "Tide", duration_s: 40, created_at: "" }], "POST /api/runs/run-1/bed/": [400, fault] });
    show(<BedPage />);
    expect(await screen.findByText("bed: is silent; choose another")).toBeInTheDocument();
    // What cannot be used can be got rid of.
    expect(screen.getByRole("button", { name: "Delete this bed" })).toBeEnabled();
  });

  it("orders a mix with what is set, tells how far each is, and takes them back", async () => {
    const mix = { id: "m1", run: "run-1", bed: "b", bed_name: "Tide", params: {}, name: "Guide over Tide", file_name: "Guide over Tide.mp3", file: {}, target_name: "Podcast, stereo", tags: {}, rules: [{ name: "true_peak_dbtp", label: "True peak", wanted: "at most -1.0 dBTP", got: "-1.2 dBTP", is_met: true, off_by: null }], measures: { integrated_lufs: -16.02, true_peak_dbtp: -1.2 }, size_bytes: 1_240_000, sha256: "", state: "done", progress: 1, doing: "", error: "", created_at: "" };
    const recording = { id: "rec-1", name: "Guide", target: null } as unknown as Recording;
    const asked = serve({
      "GET /api/runs/": [someRun()], "GET /api/bed-settings/": settings, "GET /api/beds/": [{ id: "b", name: "Tide", duration_s: 40, created_at: "" }],
      "GET /api/recordings/rec-1/": recording, "GET /api/targets/": [{ id: "t", name: "Podcast, stereo", sentences: ["Loudness -16 LUFS"], file: {} }],
      "GET /api/mixes/": [{ ...mix, id: "m2", name: "Next", file_name: "Next.wav", state: "running", progress: 0.42, doing: "Limiter" }, mix, { ...mix, id: "m3", name: "Lost", file_name: "Lost.wav", state: "failed", error: "Tide: was deleted; bring it in again" }],
      "POST /api/mixes/": [201, mix], "DELETE /api/mixes/m2/": [204, null], "POST /api/runs/run-1/bed/": [400, { error: { code: "x", message: "not now", path: "bed" } }],
    });
    show(<BedPage />);
    const list = await screen.findByRole("region", { name: "Mixes" });
    expect(list).toHaveTextContent("42 %, Limiter");
    expect(list).toHaveTextContent("Podcast, stereo: \u221216.0 LUFS, true peak \u22121.2 dBTP, 1.2 MB");
    expect(list).toHaveTextContent("Tide: was deleted; bring it in again");
    expect(screen.getByRole("link", { name: "Download Guide over Tide" })).toHaveAttribute("href", "/api/mixes/m1/file/");
    await userEvent.click(screen.getByRole("button", { name: "Target of Guide over Tide: 1 of 1 met" }));
    expect(await screen.findByText("at most -1.0 dBTP")).toBeInTheDocument();
    await userEvent.keyboard("{Escape}");
    await userEvent.click(screen.getByRole("button", { name: "Stop Next" }));
    await waitFor(() => expect(asked.some((a) => a.method === "DELETE" && a.path === "/api/mixes/m2/")).toBe(true));
    const deliver = screen.getByRole("button", { name: "Deliver the mix" });
    await waitFor(() => expect(deliver).toBeEnabled());
    await userEvent.click(deliver);
    await userEvent.click(screen.getByRole("combobox", { name: "Target" }));
    await userEvent.click(await screen.findByRole("option", { name: "Podcast, stereo" }));
    expect(screen.getByText(/noise floor and silence at the ends are not asked of a mix/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Make the mix" }));
    await waitFor(() => expect(asked.find((a) => a.method === "POST" && a.path === "/api/mixes/")?.body).toEqual({
      run: "run-1", bed: "b", params: { voice_start_s: 3, dip_db: 3, tail_s: 3 }, name: "Guide over Tide", target: "t", file: {}, tags: { title: "Guide" }, cover: "",
    }));
  });

  it("the picture says the distance in words", () => {
    show(<DistancePicture told={told} width={400} height={200} />);
    expect(screen.getByRole("img", { name: /typically 20.0, nine tenths of the words over 12.5/ })).toBeInTheDocument();
    // The bed is 12 dB down; the scale reaches that far.
    expect(screen.getByText("\u221220")).toBeInTheDocument();
  });
});
