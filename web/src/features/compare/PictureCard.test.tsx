import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it, vi } from "vitest";

import { show } from "../../testing";
import { PictureCard } from "./PictureCard";

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
