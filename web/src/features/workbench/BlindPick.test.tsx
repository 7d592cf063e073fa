import { fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";

import type { Step } from "../../api/types";
import type { Loop } from "../../audio/loop";
import { serve, show } from "../../testing";
import { BlindPick } from "./BlindPick";
import { randomOrder } from "./blindPicks";

const steps: Step[] = [{ type: "gain", enabled: true, params: { gain_db: 3 } }];

/** Tosses that come out in this order: even is before first. */
function tosses(...values: number[]) {
  let at = 0;
  vi.spyOn(crypto, "getRandomValues").mockImplementation((into) => {
    (into as Uint8Array)[0] = values[at++ % values.length] ?? 0;
    return into;
  });
}

function showPick(kept: object = { verdict: "After was picked 5 times of 5." }, earlier: object[] = []) {
  const asked = serve({ "GET /api/blind-picks/": earlier, "POST /api/blind-picks/": kept });
  const loop = { choose: vi.fn(), match: vi.fn(), play: vi.fn(() => Promise.resolve()), pause: vi.fn() };
  show(<BlindPick open onClose={vi.fn()} recordingId="r" loop={loop as unknown as Loop} steps={steps} span={{ startS: 1, endS: 9 }} />);
  return { asked, loop };
}

async function begin(rounds: string) {
  const field = screen.getByLabelText("Rounds");
  await userEvent.clear(field);
  await userEvent.type(field, rounds);
  await userEvent.click(screen.getByRole("button", { name: "Begin" }));
}

describe("a blind pick", () => {
  it("draws the sides anew each round, matched, and counts what was picked", async () => {
    tosses(0, 1, 0, 1, 1);
    const { asked, loop } = showPick();
    await begin("5");
    expect(loop.match).toHaveBeenCalledWith(true);
    expect(loop.choose).toHaveBeenLastCalledWith("before");
    // Round 1: label 2 is after. By key, at the same instant.
    fireEvent.keyDown(window, { key: "2" });
    expect(loop.choose).toHaveBeenLastCalledWith("after");
    await userEvent.click(screen.getByRole("button", { name: "This one is better: 2" }));
    // Round 2: label 1 is after; nothing on the page tells.
    expect(loop.choose).toHaveBeenLastCalledWith("after");
    expect(screen.getByRole("status")).toHaveTextContent("Round 2 of 5");
    expect(document.body.textContent).not.toMatch(/After|Before was/);
    for (let round = 2; round <= 5; round += 1) await userEvent.click(screen.getByRole("button", { name: "This one is better: 1" }));
    await waitFor(() => expect(asked.find((a) => a.method === "POST")?.body).toEqual({
      recording: "r", chain: steps, start_s: 1, end_s: 9, picked_after: [true, true, false, true, true],
    }));
    expect(await screen.findByText("After was picked 5 times of 5.")).toBeVisible();
    expect(loop.pause).toHaveBeenCalled();
  });

  it.each(["4", "21", ""])("does not begin with %s rounds", async (rounds) => {
    const { loop } = showPick();
    const field = screen.getByLabelText("Rounds");
    await userEvent.clear(field);
    if (rounds) await userEvent.type(field, rounds);
    expect(screen.getByRole("button", { name: "Begin" })).toBeDisabled();
    expect(screen.getByText("5 to 20")).toBeVisible();
    expect(loop.play).not.toHaveBeenCalled();
  });

  it("tells earlier picks, and what went wrong with keeping", async () => {
    tosses(0);
    showPick([409, { error: { message: "The chain has changed.", code: "x", path: null } }], [
      { id: "e", verdict: "Before was picked 9 times of 10.", created_at: "2031-05-01T08:00:00Z" },
    ]);
    expect(await screen.findByText(/Before was picked 9 times of 10/)).toBeVisible();
    await begin("5");
    for (let round = 1; round <= 5; round += 1) await userEvent.click(screen.getByRole("button", { name: "This one is better: 1" }));
    expect(await screen.findByRole("alert")).toHaveTextContent("The chain has changed.");
  });

  it("draws both orders", () => {
    vi.restoreAllMocks();
    const drawn = Array.from({ length: 60 }, () => randomOrder()[0]);
    expect(new Set(drawn)).toEqual(new Set(["before", "after"]));
  });
});
