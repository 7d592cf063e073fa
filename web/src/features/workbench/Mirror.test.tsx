import { fireEvent, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { Player } from "../../audio/player";
import { show } from "../../testing";
import { Mirror } from "./Mirror";

const WIDTH = 1000;
const cuts = [{ start_s: 2, end_s: 4 }];

beforeEach(() => {
  HTMLElement.prototype.setPointerCapture = vi.fn();
  vi.spyOn(HTMLElement.prototype, "getBoundingClientRect").mockReturnValue({
    left: 0, width: WIDTH, top: 0, height: 164, right: WIDTH, bottom: 164, x: 0, y: 0, toJSON: () => ({}),
  });
});

function showMirror(more: object = {}) {
  const acts = { onSelect: vi.fn(), onTakeBack: vi.fn(), seek: vi.fn() };
  show(
    <Mirror
      durationS={10} before={undefined} after={undefined} outdated={false} scale="dB" clippedAtS={[]} roomTone={null}
      selection={null} onSelect={acts.onSelect} cuts={[]} afterCuts={[]} onTakeBack={acts.onTakeBack}
      player={{ timeNowS: 0, seek: acts.seek } as unknown as Player} {...more}
    />,
  );
  return acts;
}

const down = (x: number) => fireEvent.pointerDown(screen.getByTestId("mirror"), { clientX: x, button: 0, pointerId: 1 });
const move = (x: number) => fireEvent.pointerMove(screen.getByTestId("mirror"), { clientX: x, pointerId: 1 });
const up = (x: number) => fireEvent.pointerUp(screen.getByTestId("mirror"), { clientX: x, pointerId: 1 });

describe("the mirror", () => {
  it("says what it shows", () => {
    showMirror();
    expect(screen.getByRole("img", { name: "Waveform, 0:10.0, before" })).toBeInTheDocument();
  });

  it("seeks on a press and selects on a drag, whichever way", () => {
    const acts = showMirror();
    down(300);
    up(301);
    expect(acts.seek).toHaveBeenCalledWith(expect.closeTo(3.01, 2));
    down(700);
    move(400);
    up(400);
    expect(acts.onSelect).toHaveBeenLastCalledWith({ startS: expect.closeTo(4, 2) as number, endS: expect.closeTo(7, 2) as number });
    down(900);
    move(5000);
    expect(acts.onSelect).toHaveBeenLastCalledWith({ startS: expect.closeTo(9, 2) as number, endS: 10 });
  });

  it("hatches cuts and takes them back without seeking", async () => {
    const acts = showMirror({ cuts });
    expect(screen.getAllByTestId("cut")).toHaveLength(1);
    await userEvent.click(screen.getByRole("button", { name: "Take back the cut from 0:02.0 to 0:04.0" }));
    expect(acts.onTakeBack).toHaveBeenCalledWith(cuts[0]);
    expect(acts.seek).not.toHaveBeenCalled();
  });

  it.each([
    [true, "Found quiet"],
    [false, "Room tone"],
  ])("marks room tone, found %s", (found, words) => {
    showMirror({ roomTone: { startS: 1, endS: 3, found } });
    expect(screen.getByText(words)).toBeInTheDocument();
  });
});
