import { screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";

import { show } from "../../../testing";
import { SpectrumLegend } from "./SpectrumPicture";

describe("the legend of a spectrum", () => {
  it.each([
    ["tone", ["Room tone in", "and out"], ["Noise learned"]],
    ["learned", ["Noise learned"], ["Room tone in", "and out"]],
    [undefined, [], ["Room tone in", "and out", "Noise learned"]],
  ] as const)("names the lines that are drawn: %s", (room, named, others) => {
    show(<SpectrumLegend room={room} />);
    named.forEach((words) => expect(screen.getByText(words)).toBeInTheDocument());
    others.forEach((words) => expect(screen.queryByText(words)).toBeNull());
  });
});
