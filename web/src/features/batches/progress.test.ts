import { describe, expect, test } from "vitest";

import type { Run } from "../../api/types";
import { batchProgress } from "./progress";

const run = (state: Run["state"], duration_s: number, progress = 0): Run =>
  ({ state, duration_s, progress, started_at: state === "waiting" ? null : "2026-11-24T10:00:00Z" }) as Run;

describe("batch progress", () => {
  test("goes by the length of the recordings and leaves out what has stopped", () => {
    const now = Date.parse("2026-11-24T10:00:10Z");
    const p = batchProgress([run("done", 100), run("running", 100, 0.5), run("waiting", 50), run("failed", 999)], now);
    expect(p).toMatchObject({ done: 1, running: 1, waiting: 1, stopped: 1, share: 0.6, speed: 15 });
    expect(p.leftS).toBeCloseTo(100 / 15, 6);
  });

  test("nothing is reported before anything has happened", () => {
    expect(batchProgress([run("waiting", 10)], 0)).toMatchObject({ share: 0, speed: null, leftS: null });
    expect(batchProgress([], 0).share).toBe(0);
  });
});
