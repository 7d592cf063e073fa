import { fireEvent, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, test, vi } from "vitest";

import type { Levels, Step, StepType } from "../../api/types";
import { levels, show } from "../../testing";
import { LevelPath } from "./LevelPath";

const types: StepType[] = ["Normalize", "Gain", "Limiter"].map((label) => ({
  type: label.toLowerCase(), label, summary: "", settings: [], starters: [], provided_by: null,
}));
const step = (type: string, enabled = true): Step => ({ type, enabled, params: { target_db: -3, gain_db: 2, ceiling_dbtp: -1 } });

function showPath(steps: Step[], known: (Levels | null)[], estimated = false) {
  const acts = { onChoose: vi.fn(), onSwitch: vi.fn(), onMove: vi.fn(), onRemove: vi.fn(), onAdd: vi.fn(), onFindings: vi.fn(), onDuplicate: vi.fn() };
  show(<LevelPath steps={steps} types={types} levels={known} source="48 kHz, mono" limits={[{ name: "ceiling", db: -1 }]} chosen={0} estimated={estimated} did={steps.map(() => null)} findings={steps.map((_, i) => i)} {...acts} />);
  return acts;
}

const told = () => screen.getByRole("img", { name: /^Level path/ }).getAttribute("aria-label");

describe("level path", () => {
  test("the picture says in words what it shows", () => {
    showPath([step("normalize"), step("gain")], [levels(-12, -30.9, -54.3), levels(-3, -21.9, -45.3), null]);
    expect(told()).toContain("As recorded: true peak −12.0, voice −30.9, noise −54.3");
    expect(told()).toContain("Normalize: true peak −3.0");
    expect(told()).toContain("Gain: not run yet");
    expect(told()).toContain("Target: ceiling −1.0");
    expect(screen.getByText(/Run the chain to see the levels/)).toBeInTheDocument();
  });

  test("clearance stands under each column, with its change from 1 dB on", () => {
    showPath([step("normalize"), step("gain")], [levels(-12, -30, -54), levels(-3, -21, -45.4), levels(-3, -21, -60)]);
    const texts = [...document.querySelectorAll("svg text")].map((t) => t.textContent);
    expect(texts).toContain("24.0");
    expect(texts).toContain("24.4");
    expect(texts).toContain("39.0+14.6");
  });

  test.each([
    { peak: -13.5, noise: -70, anchor: "middle", side: "below" },
    { peak: 0, noise: -50, anchor: "middle", side: "above" },
    { peak: -20, noise: -50, anchor: "start", side: "below" },
  ])("the voice's figure stands where there is room: peak $peak, noise $noise", ({ peak, noise, anchor, side }) => {
    showPath([], [levels(peak, -32, noise)]);
    const figure = screen.getByText("−32.0");
    const mark = Number(document.querySelector("svg circle")?.getAttribute("cy"));
    expect(figure).toHaveAttribute("text-anchor", anchor);
    expect(Number(figure.getAttribute("y")) > mark ? "below" : "above").toBe(side);
  });

  test("a step that is off leaves the levels as before", () => {
    showPath([step("gain", false)], [levels(-12, -30, -54), levels(-12, -30, -54)]);
    expect(screen.getByText("off")).toBeInTheDocument();
    expect([...document.querySelectorAll("svg text")].map((t) => t.textContent)).toContain("as before");
  });

  test("the head of a column opens, switches and removes its step", async () => {
    const acts = showPath([step("normalize"), step("limiter")], [levels(-12, -30, -54), null, null]);
    await userEvent.click(screen.getByRole("button", { name: "Limiter" }));
    expect(acts.onChoose).toHaveBeenCalledWith(1);
    await userEvent.click(screen.getByLabelText("Normalize on"));
    expect(acts.onSwitch).toHaveBeenCalledWith(0, false);
    screen.getByRole("button", { name: "Limiter" }).focus();
    await userEvent.keyboard("{Delete}");
    expect(acts.onRemove).toHaveBeenCalledWith(1);
  });

  test.each([
    ["Add a step before Limiter", 1],
    ["Add a step at the end", 2],
  ])("%s", async (name, at) => {
    const acts = showPath([step("normalize"), step("limiter")], [levels(-12, -30, -54), null, null]);
    await userEvent.click(screen.getByRole("button", { name }));
    await userEvent.click(screen.getByRole("menuitem", { name: /^Gain/ }));
    expect(acts.onAdd).toHaveBeenCalledWith(types[1], at);
  });

  test("Enter pressed twice in the list of steps adds one", async () => {
    const acts = showPath([], [levels(-12, -30, -54)]);
    await userEvent.click(screen.getByRole("button", { name: "Add a step at the end" }));
    const entry = screen.getByRole("menuitem", { name: /Gain/ });
    fireEvent.click(entry);
    fireEvent.click(entry);
    expect(acts.onAdd).toHaveBeenCalledOnce();
  });

  test("keys move, duplicate and remove a step; a triangle counts its findings", async () => {
    const acts = showPath([step("normalize"), step("gain"), step("limiter")], Array.from({ length: 4 }, () => levels(-3, -20, -60)));
    screen.getByRole("button", { name: "Gain" }).focus();
    await userEvent.keyboard("{Alt>}{ArrowRight}{/Alt}");
    expect(acts.onMove).toHaveBeenCalledWith(1, 2);
    await userEvent.keyboard("{Control>}d{/Control}");
    expect(acts.onDuplicate).toHaveBeenCalledWith(1);
    await userEvent.keyboard("{Delete}");
    expect(acts.onRemove).toHaveBeenCalledWith(1);
    await userEvent.click(screen.getByRole("button", { name: "2 findings about Limiter" }));
    expect(acts.onFindings).toHaveBeenCalledWith(2, expect.anything());
  });

  test.each([[true, "estimated"], [false, "dBFS, dBTP"]])("says whether levels are estimated", (estimated, words) => {
    showPath([step("gain")], [levels(-3, -20, -60), levels(-3, -20, -60)], estimated);
    expect(screen.getByText(words)).toBeVisible();
  });
});
