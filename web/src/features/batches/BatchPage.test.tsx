import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, test } from "vitest";

import type { Delivery } from "../../api/types";
import { serve, show, someRun } from "../../testing";
import { BatchPage } from "./BatchPage";

const delivery: Delivery = {
  id: "d", name: "Causeway", file_name: "Causeway.mp3", file: { container: "MP3" }, target_name: "Podcast, mono", tags: {}, offset_lu: 0,
  rules: [
    { name: "integrated_lufs", label: "Loudness", wanted: "−19.5 to −18.5 LUFS", got: "−19.0 LUFS", is_met: true, off_by: 0 },
    { name: "true_peak_dbtp", label: "True peak", wanted: "at most −1.0 dBTP", got: "−0.4 dBTP", is_met: false, off_by: 0.6 },
  ],
  measures: null, size_bytes: 10, sha256: "",
};

const batch = {
  id: "", name: "November", recipe_name: "Calm", recipe_version: 3, created_at: "2026-11-24T10:00:00Z",
  target_name: "Podcast, mono", name_pattern: "{title}", set_level: "alike", paused: false, unusual: { a: ["needed 7.2 dB more gain than is usual here"] },
  runs: [
    someRun({ id: "a", recording_name: "Causeway", notes: ["loudness: under the target"], mended: { Click: 12, Breath: 0, Plosive: 2 }, delivery }),
    someRun({ id: "b", recording_name: "Saltmarsh", state: "failed", error: "saltmarsh.wav: ends early" }),
  ],
};

describe("a batch", () => {
  test("shows figures of what is done and the reason of what is not", async () => {
    serve({ "GET /api/batches//": batch });
    show(<BatchPage />);
    expect(await screen.findByRole("heading", { name: "November" })).toBeInTheDocument();
    expect(screen.getByRole("status")).toHaveTextContent("1 done, 1 stopped");
    expect(screen.getByText("saltmarsh.wav: ends early")).toBeInTheDocument();
    expect(screen.getAllByRole("img", { name: /voice −22.0, peak −3.0 dB/ })).toHaveLength(2);
    expect(screen.getByRole("link", { name: "Download Causeway" })).toHaveAttribute("href", "/api/deliveries/d/file/");
    expect(screen.getByText("Causeway.mp3")).toBeInTheDocument();
    expect(screen.getByText("Mended: click 12, plosive 2")).toBeInTheDocument();
    expect(screen.getByText(/needed 7.2 dB more gain/)).toBeInTheDocument();
    expect(screen.getByRole("link", { name: "New batch with these settings" })).toHaveAttribute("href", "/batches");
    expect(screen.getByRole("progressbar", { name: "Batch" })).toHaveAttribute("aria-valuenow", "100");
    await userEvent.click(screen.getByRole("button", { name: "Target of Causeway: 1 of 2 met" }));
    expect(screen.getByRole("table", { name: "Rules" })).toHaveTextContent("at most −1.0 dBTP −0.4 dBTP, not met");
    expect(screen.getByTitle("loudness: under the target")).toBeInTheDocument();
  });

  test("a file that stopped is tried again", async () => {
    const asked = serve({ "GET /api/batches//": batch, "POST /api/runs/b/retry/": someRun({ id: "b", state: "waiting" }) });
    show(<BatchPage />);
    await userEvent.click(await screen.findByRole("button", { name: "Retry Saltmarsh" }));
    expect(asked.some((a) => a.path === "/api/runs/b/retry/")).toBe(true);
  });

  test("work that goes on can be cancelled, not deleted", async () => {
    const running = { ...batch, runs: [someRun({ state: "running", progress: 0.5, doing: "EQ" })] };
    serve({ "GET /api/batches//": running });
    show(<BatchPage />);
    expect(await screen.findByRole("button", { name: "Cancel" })).toBeInTheDocument();
    expect(screen.queryByRole("button", { name: "Delete" })).toBeNull();
    expect(screen.getByText("running, 50 %")).toBeInTheDocument();
  });

  test("a batch is paused and goes on", async () => {
    const running = { ...batch, runs: [someRun({ state: "waiting" })] };
    const asked = serve({ "GET /api/batches//": running, "POST /api/batches//pause/": { ...running, paused: true } });
    show(<BatchPage />);
    await userEvent.click(await screen.findByRole("button", { name: "Pause" }));
    expect(asked.some((a) => a.path === "/api/batches//pause/")).toBe(true);
  });

  test("a batch that is gone is reported", async () => {
    serve({});
    show(<BatchPage />);
    expect(await screen.findByRole("heading", { name: /cannot be opened/ })).toBeInTheDocument();
  });
});
