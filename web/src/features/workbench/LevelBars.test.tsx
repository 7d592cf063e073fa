import { act, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { Playback } from "../../audio/playback";
import type { Tap } from "../../audio/tap";
import { show } from "../../testing";
import { LevelBars } from "./LevelBars";

const levels = { rmsDbfs: -20, lufs: -19, truePeakDbtp: -6 };

describe("level bars", () => {
  beforeEach(() => vi.useFakeTimers({ shouldAdvanceTime: true }));
  afterEach(() => vi.useRealTimers());

  it("show both sides while they play, hold the highest peak, and forget it when asked to", async () => {
    const now = { ...levels };
    const tap = { levels: () => ({ ...now }) } as unknown as Tap;
    const player = { taps: () => ({ before: tap, after: null }) } as unknown as Playback;
    show(<LevelBars player={player} playing />);
    act(() => { vi.advanceTimersByTime(100); });
    expect(screen.getByText("level −20.0 dBFS, −19.0 LUFS, peak −6.0 dBTP")).toBeInTheDocument();
    expect(screen.getByText("level – dBFS, – LUFS, peak – dBTP")).toBeInTheDocument();
    Object.assign(now, { rmsDbfs: -30, truePeakDbtp: -12 });
    act(() => { vi.advanceTimersByTime(100); });
    expect(screen.getByText("level −30.0 dBFS, −19.0 LUFS, peak −6.0 dBTP")).toBeInTheDocument();
    await userEvent.setup({ advanceTimers: vi.advanceTimersByTime.bind(vi) }).click(screen.getByRole("button", { name: "Reset" }));
    act(() => { vi.advanceTimersByTime(100); });
    expect(screen.getByText("level −30.0 dBFS, −19.0 LUFS, peak −12.0 dBTP")).toBeInTheDocument();
  });
});
