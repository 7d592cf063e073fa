import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, test, vi } from "vitest";

import { noEdits } from "../../audio/cutTimes";
import type { PlayerState } from "../../audio/playback";
import type { Player } from "../../audio/player";
import { show } from "../../testing";
import { PlaybackBar } from "./PlaybackBar";

const still: PlayerState = { playing: false, timeS: 15.9, side: "after", matched: false, fault: null };

function showBar(state: Partial<PlayerState> = {}, hasAfter = true, louderDb: number | null = 15.2, edits = noEdits) {
  const shown = { ...still, ...state };
  const player = { toggle: vi.fn(), choose: vi.fn(), match: vi.fn(), subscribe: () => vi.fn(), snapshot: () => shown };
  const [onLook, onLoop] = [vi.fn(), vi.fn()];
  show(
    <PlaybackBar
      player={player as unknown as Player} state={shown} edits={edits} durationS={34} hasAfter={hasAfter} looping={false} onLoop={onLoop} onBlindPick={null}
      difference={{ louderDb, voiceGainDb: louderDb }} look="dB" onLook={onLook}
    >
      <span />
    </PlaybackBar>,
  );
  return { ...player, onLook, onLoop };
}
const button = (name: string | RegExp) => screen.getByRole("button", { name });

describe("playback bar", () => {
  test("time, side and play", async () => {
    const { toggle, choose } = showBar();
    expect(screen.getByText("0:15.9")).toBeInTheDocument();
    expect(button("After")).toHaveAttribute("aria-pressed", "true");
    await userEvent.click(button("Play"));
    await userEvent.click(button("Before"));
    expect(toggle).toHaveBeenCalled();
    expect(choose).toHaveBeenCalledWith("before");
  });

  test("times with the cuts and without", async () => {
    showBar({}, true, 0, { ...noEdits, cuts: [{ start_s: 5, end_s: 8 }], pad_start_s: 1 });
    expect(screen.getByText("0:15.9")).toBeInTheDocument();
    await userEvent.click(button("0:32.0 edited"));
    expect(screen.getByText("0:13.9")).toBeInTheDocument();
    expect(screen.getByText("/ 0:32.0")).toBeInTheDocument();
    await userEvent.click(button("edited times"));
    expect(screen.getByText("/ 0:34.0")).toBeInTheDocument();
  });

  test("match says by how much", async () => {
    const { match } = showBar({ matched: true });
    await userEvent.click(button("Match, after −15.2 dB"));
    expect(match).toHaveBeenCalledWith(false);
  });

  test("removed says by how much after is brought down, and goes back to after", async () => {
    const { choose } = showBar({ side: "removed" });
    await userEvent.click(button("Removed, after −15.2 dB"));
    expect(choose).toHaveBeenCalledWith("after");
  });

  test("without a result there is only before", () => {
    showBar({}, false, null);
    expect(button("Before")).toHaveAttribute("aria-pressed", "true");
    for (const name of ["After", "Match", "Removed"]) expect(button(name)).toBeDisabled();
  });

  test("what cannot be played is said", async () => {
    const { onLook } = showBar({ fault: "This file cannot be played here." });
    expect(screen.getByRole("alert")).toHaveTextContent("cannot be played");
    await userEvent.click(button(/View/));
    expect(onLook).toHaveBeenCalledWith("linear");
  });

  test("loops the passage", async () => {
    const { onLoop } = showBar();
    await userEvent.click(button("Loop passage"));
    expect(onLoop).toHaveBeenCalledWith(true);
  });
});
