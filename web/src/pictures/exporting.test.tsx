import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";

import { PictureCard } from "../features/compare/PictureCard";
import { show } from "../testing";
import { savePicture, svgText } from "./exporting";

const box = (inner: string) => {
  const made = document.createElement("div");
  made.innerHTML = inner;
  return made;
};

afterEach(() => vi.restoreAllMocks());

describe("pictures as files", () => {
  it("stand on their own: namespace, size, paper", () => {
    const text = svgText(box('<svg width="40" height="20"><path d="M0 0"/></svg>'), "#fbf7ef") ?? "";
    expect(text).toContain('xmlns="http://www.w3.org/2000/svg"');
    expect(text).toContain('viewBox="0 0 40 20"');
    expect(text).toContain("background: ");
    expect(svgText(box("<p>nothing drawn</p>"), "#fff")).toBeNull();
  });

  it("where nothing is drawn nothing is saved", async () => {
    const click = vi.spyOn(HTMLAnchorElement.prototype, "click").mockImplementation(() => undefined);
    await savePicture(box(""), "x", "svg", "#fff");
    expect(click).not.toHaveBeenCalled();
  });

  it("a card saves its picture under its name", async () => {
    const names: string[] = [];
    URL.createObjectURL = vi.fn(() => "blob:x");
    URL.revokeObjectURL = vi.fn();
    vi.spyOn(HTMLAnchorElement.prototype, "click").mockImplementation(function (this: HTMLAnchorElement) {
      names.push(this.download);
    });
    show(<PictureCard title="Tone" name="Guide, tone">{(width) => <svg width={width} height={10} />}</PictureCard>);
    await userEvent.click(screen.getByRole("button", { name: "Save Tone as SVG" }));
    await waitFor(() => expect(names).toEqual(["Guide, tone.svg"]));
  });
});
