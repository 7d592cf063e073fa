import { fireEvent, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";

import { noEdits } from "../../audio/cutTimes";
import type { Player } from "../../audio/player";
import { show } from "../../testing";
import { Mirror } from "./Mirror";

const WIDTH = 1000;
const overview = { bin_s: 1, start_s: 0, low: Array(10).fill(-0.5) as number[], high: Array(10).fill(0.5) as number[], rms: Array(10).fill(0.1) as number[] };
const cuts = [{ start_s: 2, end_s: 4 }];

beforeEach(() => {
  HTMLElement.prototype.setPointerCapture = vi.fn();
  vi.spyOn(HTMLElement.prototype, "getBoundingClientRect").mockReturnValue({
    left: 0, width: WIDTH, top: 0, height: 164, right: WIDTH, bottom: 164, x: 0, y: 0, toJSON: () => ({}),
  });
});

function showMirror(more: object = {}) {
  const acts = { onSelect: vi.fn(), onTakeBack: vi.fn(), seek: vi.fn(), onView: vi.fn(), onPassage: vi.fn(), onGoTo: vi.fn() };
  show(
    <Mirror
      durationS={10} sampleRateHz={48_000} before={{ sound: { kind: "recordings", id: "r" }, overview: overview }} after={null}
      outdated={false} look="dB" clippedAtS={[]} roomTones={[]} view={{ startS: 0, endS: 10 }} onView={acts.onView}
      selection={null} onSelect={acts.onSelect} edits={noEdits} afterEdits={noEdits} onTakeBack={acts.onTakeBack} onGoTo={acts.onGoTo}
      player={{ timeNowS: 0, seek: acts.seek } as unknown as Player} folded={false} passage={null} onPassage={acts.onPassage} {...more}
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

  it("zooms by the wheel around the pointer, and moves along with Shift", () => {
    const acts = showMirror();
    fireEvent.wheel(screen.getByTestId("mirror"), { clientX: 500, deltaY: -400 });
    const closer = acts.onView.mock.lastCall?.[0] as { startS: number; endS: number };
    expect(closer.endS - closer.startS).toBeCloseTo(10 / 1.0025 ** 400, 6);
    expect((closer.startS + closer.endS) / 2).toBeCloseTo(5, 6);
    showMirror({ view: { startS: 2, endS: 4 }, onView: acts.onView });
    fireEvent.wheel(screen.getAllByTestId("mirror")[1] as HTMLElement, { clientX: 500, deltaY: 500, shiftKey: true });
    expect(acts.onView).toHaveBeenLastCalledWith({ startS: 3, endS: 5 });
  });

  it("tells the levels under the pointer and what part is shown", () => {
    showMirror({ view: { startS: 2, endS: 4 } });
    move(500);
    expect(screen.getByTestId("read-out")).toHaveTextContent("0:03.00 before peak −6.0, average −20.0 dBFS");
    expect(screen.getByRole("slider", { name: "What is shown of the whole" })).toHaveAttribute("aria-valuetext", "0:02.00 to 0:04.00");
  });

  it("tells what was added at the ends", () => {
    showMirror({ edits: { ...noEdits, pad_start_s: 0.5 } });
    expect(screen.getByText("+0.50 s room tone")).toBeInTheDocument();
  });

  it("hatches cuts and takes them back without seeking", async () => {
    const acts = showMirror({ edits: { ...noEdits, cuts } });
    expect(screen.getAllByTestId("cut")).toHaveLength(1);
    await userEvent.click(screen.getByRole("button", { name: "Take back the cut from 0:02.0 to 0:04.0" }));
    expect(acts.onTakeBack).toHaveBeenCalledWith(cuts[0]);
    expect(acts.seek).not.toHaveBeenCalled();
  });

  it.each([
    [true, "Found quiet"],
    [false, "Room tone"],
  ])("marks room tone, found %s", (found, words) => {
    showMirror({ roomTones: [{ startS: 1, endS: 3, found }, { startS: 5, endS: 5.1, found }] });
    expect(screen.getAllByText(words)).toHaveLength(1);
  });

  it("moves the passage by its grips and by keys, never outside or too short", async () => {
    const acts = showMirror({ passage: { startS: 2, endS: 6 } });
    const [start, whole, end] = ["Start of the passage", "Passage", "End of the passage"].map((name) => screen.getByRole("slider", { name }));
    start?.focus();
    await userEvent.keyboard("{ArrowLeft}");
    expect(acts.onPassage).toHaveBeenLastCalledWith({ startS: 1.75, endS: 6 });
    whole?.focus();
    await userEvent.keyboard("{ArrowRight}");
    expect(acts.onPassage).toHaveBeenLastCalledWith({ startS: 2.25, endS: 6.25 });
    if (end) {
      fireEvent.pointerDown(end, { clientX: 0, pointerId: 1 });
      end.hasPointerCapture = () => true;
      fireEvent.pointerMove(end, { clientX: -5000, pointerId: 1 });
    }
    expect(acts.onPassage).toHaveBeenLastCalledWith({ startS: 2, endS: 4 });
  });
});
