import { act, renderHook, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { Step } from "../../api/types";
import { noEdits } from "../../audio/cutTimes";
import type { Loop } from "../../audio/loop";
import { serve } from "../../testing";
import { askPassage, type Asked, type Given } from "./passage";
import { useLive } from "./useLive";

vi.mock("./passage", () => ({ askPassage: vi.fn() }));
const asking = vi.mocked(askPassage);
const gain = (gain_db: number): Step[] => [{ type: "gain", enabled: true, params: { gain_db } }];
const tailOf = (asked: Asked) => ({ points: [], advice: [], picture: null, of: asked.steps }) as never;

let settled = true;
const waiting: { asked: Asked; answer: () => void; fail: (error: Error) => void }[] = [];

beforeEach(() => {
  waiting.length = 0;
  asking.mockReset();
  asking.mockImplementation((_, asked, onSound) => new Promise((resolve, reject) => {
    const head = { sample_rate_hz: 48_000, channels: 1, before_lufs: -20, after_lufs: -17, is_settled: settled, can_settle: true };
    const channels = Array.from({ length: asked.withBefore ? 2 : 1 }, () => new Float32Array(4));
    waiting.push({
      asked, fail: reject,
      answer: () => {
        onSound({ head, channels } as unknown as Given);
        resolve(tailOf(asked));
      },
    });
  }));
});

function showLive(isSettled = true) {
  settled = isSettled;
  const loop = { take: vi.fn() };
  const wanted = (steps: Step[]) => ({ recordingId: "r", steps, span: { startS: 1, endS: 2 }, opened: 0, edits: noEdits, sound: "" });
  const hook = renderHook(({ steps }) => useLive(loop as unknown as Loop, wanted(steps)), { initialProps: { steps: gain(0) } });
  return { loop, ...hook };
}

describe("asking for the passage", () => {
  it("has one request under way, and the latest chain wins", async () => {
    const { loop, rerender, result } = showLive();
    for (const db of [1, 2, 3]) rerender({ steps: gain(db) });
    expect(waiting).toHaveLength(1);
    await act(async () => {
      waiting[0]?.answer();
      await Promise.resolve();
    });
    await waitFor(() => expect(waiting).toHaveLength(2));
    expect(waiting[1]?.asked.steps).toEqual(gain(3));
    // Before is sent once only.
    expect(waiting.map((w) => w.asked.withBefore)).toEqual([true, false]);
    await act(async () => {
      waiting[1]?.answer();
      await Promise.resolve();
    });
    await waitFor(() => expect(result.current.steps).toEqual(gain(3)));
    expect(loop.take).toHaveBeenCalledTimes(2);
    expect(loop.take.mock.calls[1]?.[0]).toMatchObject({ startS: 1, louderDb: 3 });
    expect(waiting).toHaveLength(2);
  });

  it("tells a fault, keeps what it has, and tries again with the next change", async () => {
    const { rerender, result } = showLive();
    await act(async () => {
      waiting[0]?.fail(new Error("steps[0]: wrong"));
      await Promise.resolve();
    });
    await waitFor(() => expect(result.current.fault).toBe("steps[0]: wrong"));
    rerender({ steps: gain(5) });
    await waitFor(() => expect(waiting).toHaveLength(2));
    await act(async () => {
      waiting[1]?.answer();
      await Promise.resolve();
    });
    await waitFor(() => expect(result.current.fault).toBeNull());
  });
});

describe("settling", () => {
  it("happens when nothing has changed for a while, and asks again for what is exact", async () => {
    vi.useFakeTimers({ shouldAdvanceTime: true });
    const asked = serve({ "POST /api/recordings/r/settle/": { points: [] } });
    const { result } = showLive(false);
    await act(async () => {
      waiting[0]?.answer();
      await Promise.resolve();
    });
    await waitFor(() => expect(result.current.head?.is_settled).toBe(false));
    expect(asked).toHaveLength(0);
    await act(() => vi.advanceTimersByTimeAsync(2600));
    await waitFor(() => expect(asked.map((a) => a.body)).toEqual([{ steps: gain(0) }]));
    await waitFor(() => expect(waiting).toHaveLength(2));
    vi.useRealTimers();
  });
});
