import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, test, vi } from "vitest";

import type { Recipe, Recording, Run } from "../../api/types";
import { show, someRun } from "../../testing";
import { WorkbenchHead } from "./WorkbenchHead";

const recipe = { id: "r", name: "Calm" } as Recipe;

function showHead(changes: { busyRun?: Run | null; isCurrent?: boolean; canRun?: boolean } = {}) {
  const acts = {
    earlier: ["Gain: gain 1 dB to 2 dB", "Gate removed", "cut"], onUndo: vi.fn(), onRedo: vi.fn(), onApply: vi.fn(), onSave: vi.fn(), onRun: vi.fn(), onDeliver: vi.fn(), onCancel: vi.fn(),
  };
  show(
    <WorkbenchHead
      recording={{ name: "Hide guide: causeway" } as Recording} chainLine="Calm, version 1" recipes={[recipe]}
      undoes={null} redoes="Gate added" canRun={changes.canRun ?? true} busyRun={changes.busyRun ?? null}
      isCurrent={changes.isCurrent ?? false} {...acts}
    />,
  );
  return acts;
}

describe("head of the workbench", () => {
  test("runs, saves, redoes and applies", async () => {
    const acts = showHead();
    await userEvent.click(screen.getByRole("button", { name: "Run the chain" }));
    await userEvent.click(screen.getByRole("button", { name: "Save as recipe" }));
    await userEvent.click(screen.getByRole("button", { name: "Redo" }));
    await userEvent.click(screen.getByRole("button", { name: "Apply a recipe" }));
    await userEvent.click(screen.getByRole("menuitem", { name: "Calm" }));
    for (const act of [acts.onRun, acts.onSave, acts.onRedo]) expect(act).toHaveBeenCalledOnce();
    expect(acts.onApply).toHaveBeenCalledWith(recipe);
    expect(screen.getByRole("button", { name: "Undo" })).toBeDisabled();
  });

  test.each(["Run the chain", "Save as recipe", "Deliver"])("an empty chain has no %s, and says why", (name) => {
    showHead({ canRun: false });
    expect(screen.getByRole("button", { name })).toBeDisabled();
    expect(screen.getByRole("button", { name }).parentElement).toHaveAttribute("title", "Add a step or apply a recipe first");
  });

  test("a run at work shows how far it is and can be stopped", async () => {
    const acts = showHead({ busyRun: someRun({ state: "running", progress: 0.42, doing: "EQ" }) });
    expect(screen.getByRole("progressbar", { name: "Run" })).toHaveAttribute("aria-valuenow", "42");
    await userEvent.click(screen.getByRole("button", { name: "Cancel" }));
    expect(acts.onCancel).toHaveBeenCalledOnce();
  });

  test("what is of the chain as it is need not be run, and can be delivered", async () => {
    const acts = showHead({ isCurrent: true });
    expect(screen.getByRole("button", { name: "Run again" })).toBeEnabled();
    await userEvent.click(screen.getByRole("button", { name: "Deliver" }));
    expect(acts.onDeliver).toHaveBeenCalledOnce();
  });

  test("all changes are listed, and several are taken back at once", async () => {
    const acts = showHead();
    await userEvent.click(screen.getByRole("button", { name: "All changes" }));
    expect(screen.getAllByRole("menuitem").map((item) => item.textContent)).toEqual([
      "Undo Gain: gain 1 dB to 2 dB", "Undo down to: Gate removed", "Undo down to: cut",
    ]);
    await userEvent.click(screen.getByRole("menuitem", { name: /Gate removed/ }));
    expect(acts.onUndo).toHaveBeenCalledExactlyOnceWith(2);
  });
});
