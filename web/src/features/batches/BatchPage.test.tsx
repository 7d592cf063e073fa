import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, test } from "vitest";

import { serve, show, someRun } from "../../testing";
import { BatchPage } from "./BatchPage";

const batch = {
  id: "", name: "November", recipe_name: "Calm", recipe_version: 3, created_at: "2026-11-24T10:00:00Z",
  runs: [
    someRun({ id: "a", recording_name: "Causeway", notes: ["loudness: under the target"] }),
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
    expect(screen.getByRole("link", { name: "Download Causeway" })).toHaveAttribute("href", "/api/runs/a/result/");
    expect(screen.getByTitle("loudness: under the target")).toBeInTheDocument();
    expect(screen.getByRole("progressbar", { name: "Batch" })).toHaveAttribute("aria-valuenow", "100");
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

  test("a batch that is gone is told", async () => {
    serve({});
    show(<BatchPage />);
    expect(await screen.findByRole("heading", { name: /cannot be opened/ })).toBeInTheDocument();
  });
});
