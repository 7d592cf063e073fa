import { afterEach, describe, expect, it, vi } from "vitest";

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
});
