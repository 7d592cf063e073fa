import { screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";

import type { Laid } from "../../api/types";
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
    expect(screen.getByRole("button", { name: "Fetch the mix" })).toBeDisabled();
  });

  it("tells what the server objects to", async () => {
    const fault = { error: { code: "bad_input", message: "bed: is silent; choose another", path: "bed" } };
    serve({ "GET /api/runs/": [someRun()], "GET /api/bed-settings/": settings, "GET /api/beds/": [{ id: "b", name: "Tide", duration_s: 40, created_at: "" }], "POST /api/runs/run-1/bed/": [400, fault] });
    show(<BedPage />);
    expect(await screen.findByText("bed: is silent; choose another")).toBeInTheDocument();
  });

  it("the picture says the distance in words", () => {
    show(<DistancePicture told={told} width={400} height={200} />);
    expect(screen.getByRole("img", { name: /typically 20.0, nine tenths of the words over 12.5/ })).toBeInTheDocument();
    // The bed is 12 dB down; the scale reaches that far.
    expect(screen.getByText("\u221220")).toBeInTheDocument();
  });
});
