import { useState, type ComponentProps } from "react";
import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";

import type { Finding, Step, StepType } from "../../api/types";
import { numberSetting, show } from "../../testing";
import { AdviceButton } from "./AdviceButton";
import { isTaken, proposedStep, usualPlace } from "./adviceActs";

const setting = (name: string, more: object = {}) => ({ ...numberSetting, name, ...more });
const types = [
  { type: "normalize", label: "Normalize", settings: [setting("target_db", { default: -3 })] },
  {
    type: "eq", label: "EQ",
    settings: [setting("bands", { kind: "records", default: [], record: [setting("freq_hz", { default: 1000 }), setting("q", { default: 0.7 })] })],
  },
  { type: "limiter", label: "Limiter", settings: [] },
] as unknown as StepType[];
const step = (type: string, enabled = true, freq_hz = 50): Step => ({
  type, enabled, params: type === "eq" ? { bands: [{ freq_hz }] } : {},
});
const finding = (act: Finding["act"], at_s: number[] = []): Finding => ({ code: "hum", text: "Mains hum at 50 Hz.", act, at_s });
const notch = { kind: "add_step", text: "Add EQ with notches there", with: { type: "eq", enabled: true, params: { bands: [{ freq_hz: 50 }] } } } as Finding["act"];

describe("what advice proposes", () => {
  it("is a whole step, records completed", () => {
    expect(proposedStep(finding(notch), types)).toEqual({
      type: "eq", enabled: true, params: { bands: [{ freq_hz: 50, q: 0.7 }] },
    });
    expect(proposedStep(finding(null), types)).toBeNull();
  });

  it.each([
    ["normalize", ["eq", "limiter"], 0],
    ["eq", ["normalize", "limiter"], 1],
    ["limiter", ["normalize", "eq"], 2],
    ["eq", [], 0],
  ])("places %s into %j at %i", (type, chain, place) => {
    expect(usualPlace(type, chain.map((t) => step(t)), types)).toBe(place);
  });

  it.each([
    [[step("eq")], true],
    [[step("eq", false)], false],
    [[step("limiter")], false],
    [[step("eq", true, 55)], true],
    [[step("eq", true, 390)], false],
  ])("knows when it is done", (steps, done) => {
    expect(isTaken(finding(notch), steps)).toBe(done);
  });
});

function showButton(more: Partial<ComponentProps<typeof AdviceButton>>) {
  function Held() {
    const [anchor, setAnchor] = useState<HTMLElement | null>(null);
    const acts = { onAct: vi.fn(), onGoTo: vi.fn(), onDismiss: vi.fn() };
    return <AdviceButton intake={[]} chain={[]} dismissed={[]} steps={[]} anchor={anchor} onAnchor={setAnchor} {...acts} {...more} />;
  }
  show(<Held />);
}

describe("the findings button", () => {
  it("lists findings, acts and goes to places", async () => {
    const onAct = vi.fn();
    const onGoTo = vi.fn();
    showButton({ intake: [finding(notch, [4, 9.5])], onAct, onGoTo });
    await userEvent.click(screen.getByRole("button", { name: "1 finding" }));
    expect(screen.getByText("Mains hum at 50 Hz.")).toBeVisible();
    await userEvent.click(screen.getByRole("button", { name: "Add EQ with notches there" }));
    expect(onAct).toHaveBeenCalledOnce();
    await userEvent.click(screen.getByRole("button", { name: "Go to 0:09.5" }));
    expect(onGoTo).toHaveBeenCalledWith(9.5);
  });

  it("says what is in the chain already, and is not there without findings", async () => {
    showButton({ intake: [finding(notch)], steps: [step("eq")] });
    await userEvent.click(screen.getByRole("button", { name: "1 finding" }));
    expect(screen.getByText("in the chain")).toBeVisible();
    expect(screen.queryByRole("button", { name: "Add EQ with notches there" })).toBeNull();
  });

  it("dismisses what is not to be shown again, and shows it again on demand", async () => {
    const onDismiss = vi.fn();
    const late: Finding = { ...finding(null), code: "late", text: "Comes too late.", at_step: 1 };
    showButton({ chain: [late], intake: [finding(notch)], dismissed: ["late"], onDismiss });
    await userEvent.click(screen.getByRole("button", { name: "1 finding" }));
    expect(screen.queryByText("Comes too late.")).toBeNull();
    await userEvent.click(screen.getByRole("button", { name: "Show 1 dismissed" }));
    await userEvent.click(screen.getByRole("button", { name: "Tell again" }));
    expect(onDismiss).toHaveBeenCalledWith([]);
    await userEvent.click(screen.getByRole("button", { name: "Dismiss" }));
    expect(onDismiss).toHaveBeenLastCalledWith(["late", finding(notch).code]);
  });
});

describe("all findings at once", () => {
  it("are mended by the chain made for the recording", async () => {
    const onMendAll = vi.fn();
    showButton({ intake: [finding(notch)], onMendAll });
    await userEvent.click(screen.getByRole("button", { name: "1 finding" }));
    await userEvent.click(screen.getByRole("button", { name: "Mend all findings" }));
    expect(onMendAll).toHaveBeenCalledOnce();
  });

  it("have no such button while no chain was made", async () => {
    showButton({ intake: [finding(notch)] });
    await userEvent.click(screen.getByRole("button", { name: "1 finding" }));
    expect(screen.queryByRole("button", { name: "Mend all findings" })).toBeNull();
  });
});
