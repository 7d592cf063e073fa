import { fireEvent, screen, within } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";

import type { Speakers } from "../../../audio/cutTimes";
import { show } from "../../../testing";
import { SpeakerStrip } from "./SpeakerStrip";

const TALK: Speakers = {
  names: ["Host", "Guest"],
  turns: [{ start_s: 0, end_s: 4, speaker: 0 }, { start_s: 4, end_s: 6, speaker: 1 }, { start_s: 9, end_s: 12, speaker: 0 }],
};

function strip(changes: Partial<Parameters<typeof SpeakerStrip>[0]> = {}) {
  const onSet = vi.fn(), onGoTo = vi.fn();
  show(<SpeakerStrip speakers={TALK} corrected={false} view={{ startS: 0, endS: 8 }} playheadS={() => 5} onSet={onSet} onGoTo={onGoTo} {...changes} />);
  return { onSet, onGoTo };
}

describe("the strip of speakers", () => {
  it("shows the turns in view, with names and times", () => {
    strip();
    expect(screen.getAllByRole("button", { name: /^(Host|Guest), / }).map((one) => one.getAttribute("aria-label"))).toEqual(["Host, 0:00.0 to 0:04.0", "Guest, 0:04.0 to 0:06.0"]);
    expect(screen.getByText(/Found by the leveller/)).toBeVisible();
  });

  it.each([
    ["This is Host", { names: ["Host"], speakers: [0, 0, 0] }],
    ["This is somebody else", { names: ["Host", "Speaker 3"], speakers: [0, 1, 0] }],
    ["Part at the playhead", { names: ["Host", "Guest"], speakers: [0, 1, 1, 0] }],
  ])("corrects a turn: %s", (act, wanted) => {
    const { onSet } = strip();
    fireEvent.click(screen.getByRole("button", { name: /^Guest, / }));
    fireEvent.click(screen.getByRole("menuitem", { name: act }));
    const next = onSet.mock.calls[0]?.[0] as Speakers;
    expect({ names: next.names, speakers: next.turns.map((turn) => turn.speaker) }).toEqual(wanted);
  });

  it("renames, merges and takes corrections back", () => {
    const { onSet } = strip({ corrected: true });
    const name = screen.getByRole("textbox", { name: "Name of speaker 2" });
    fireEvent.change(name, { target: { value: "Warden" } });
    fireEvent.blur(name);
    expect((onSet.mock.lastCall?.[0] as Speakers).names).toEqual(["Host", "Warden"]);
    fireEvent.click(screen.getByRole("button", { name: "Merge Guest" }));
    fireEvent.click(within(screen.getByRole("menu")).getByText("Is the same as Host"));
    expect((onSet.mock.lastCall?.[0] as Speakers).names).toEqual(["Host"]);
    fireEvent.click(screen.getByRole("button", { name: "Find anew" }));
    expect(onSet).toHaveBeenLastCalledWith(null);
  });
});
