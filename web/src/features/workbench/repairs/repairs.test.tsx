import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";

import type { Repairs } from "../../../audio/cutTimes";
import type { Run, StepType } from "../../../api/types";
import { show, someRun } from "../../../testing";
import { adding, marksOf, mendedBy, mending, nextMark, refusing, repairsIn } from "./marks";
import { RepairStrip } from "./RepairStrip";

const point = (type: string, events: unknown, enabled = true) => ({ type, enabled, levels: {}, report: { events } });
const run = someRun({
  cuts: [{ start_s: 2, end_s: 4 }],
  points: [point("click", [[1, 1.01, 9], [3, 3.02, 12]]), point("breath", [[1.5, 1.9, 20]]), point("gain", undefined), point("click", [[0, 1, 1]], false)],
} as unknown as Partial<Run>);
const refused = { type: "click", start_s: 1, end_s: 1.01 };

describe("marks of repairs", () => {
  it("are in times of the original, whatever was cut", () =>
    expect(mendedBy(run).map((m) => [m.type, m.start_s, m.end_s])).toEqual([["click", 1, 1.01], ["click", 5, 5.02], ["breath", 1.5, 1.9]]));

  it("nothing comes of no run or of odd reports", () => {
    expect(mendedBy(null)).toEqual([]);
    expect(mendedBy(someRun({ points: [point("click", "many"), point("click", [[1, 2]])] } as unknown as Partial<Run>))).toEqual([]);
  });

  it("what a person has settled comes before what the run did", () => {
    const marks = marksOf(run, { refused: [refused], added: [{ type: "click", start_s: 7, end_s: 7.01 }] });
    expect(marks.map((m) => [m.start_s, m.state])).toEqual([[1, "refused"], [1.5, "mended"], [5, "mended"], [7, "added"]]);
  });

  it("are refused, mended again, added and taken back", () => {
    const [mark] = marksOf(run, null);
    if (!mark) throw new Error("no mark");
    const left = refusing(null, mark);
    expect(left).toEqual({ refused: [refused], added: [] });
    expect(mending(left, { ...mark, state: "refused" })).toBeNull();
    const more: Repairs = adding(left, { type: "click", start_s: 0.9, end_s: 1.1 });
    expect(more).toEqual({ refused: [], added: [{ type: "click", start_s: 0.9, end_s: 1.1 }] });
    expect(refusing(more, { type: "click", start_s: 0.9, end_s: 1.1, state: "added", strengthDb: null })).toBeNull();
    // Another step's event at the same place stays.
    expect(mending({ refused: [{ ...refused, type: "breath" }], added: [] }, mark)).toEqual({ refused: [{ ...refused, type: "breath" }], added: [] });
  });

  it.each([[0, true, 1], [1, true, 1.5], [9, true, null], [9, false, 5], [1, false, null]])("from %d s, forward %s: %s", (at, forward, expected) =>
    expect(nextMark(marksOf(run, null), at, forward)?.start_s ?? null).toBe(expected));

  it("steps with sureness mend what is pointed at", () =>
    expect(repairsIn([
      { type: "click", enabled: true, params: { sureness_percent: 50 } }, { type: "click", enabled: true, params: { sureness_percent: 50 } },
      { type: "breath", enabled: false, params: { sureness_percent: 50 } }, { type: "gain", enabled: true, params: {} },
    ])).toEqual(["click"]));
});

describe("the strip of repairs", () => {
  const types = [{ type: "click", label: "Click" }, { type: "breath", label: "Breath" }] as StepType[];
  const acts = () => ({ onRefuse: vi.fn(), onMend: vi.fn(), onAdd: vi.fn(), onGoTo: vi.fn() });

  it("counts them, goes to one, leaves one alone, mends the selection", async () => {
    const did = acts();
    const marks = marksOf(run, { refused: [refused], added: [] });
    show(<RepairStrip marks={marks} types={types} view={{ startS: 0, endS: 10 }} offered={["click"]} selection={{ startS: 6, endS: 6.1 }} {...did} />);
    expect(screen.getByText("Click: 1 mended, 1 left alone. Breath: 1 mended.")).toBeVisible();
    await userEvent.click(screen.getByRole("button", { name: "Click at 0:05.00, mended" }));
    await userEvent.click(screen.getByRole("menuitem", { name: /Go to 0:05.00, 20 ms, stands out by/ }));
    expect(did.onGoTo).toHaveBeenCalledWith(5);
    await userEvent.click(screen.getByRole("button", { name: "Breath at 0:01.50, mended" }));
    await userEvent.click(screen.getByRole("menuitem", { name: "Leave it alone" }));
    expect(did.onRefuse).toHaveBeenCalledWith(expect.objectContaining({ type: "breath", start_s: 1.5 }));
    await userEvent.click(screen.getByRole("button", { name: "Click at 0:01.00, left alone" }));
    await userEvent.click(screen.getByRole("menuitem", { name: "Mend it again" }));
    expect(did.onMend).toHaveBeenCalledWith(expect.objectContaining(refused));
    await userEvent.click(screen.getByRole("button", { name: "List" }));
    const rows = within(screen.getByRole("table", { name: "Events of repairs" })).getAllByRole("row");
    expect(rows.map((row) => row.textContent)).toEqual([
      "0:01.00Click10 msleft aloneMend it again", "0:01.50Breath400 ms20.0 dBmendedLeave it alone", "0:05.00Click20 ms12.0 dBmendedLeave it alone",
    ]);
    await userEvent.click(screen.getByRole("button", { name: "Leave it alone: 0:05.00" }));
    expect(did.onRefuse).toHaveBeenLastCalledWith(expect.objectContaining({ type: "click", start_s: 5 }));
    await userEvent.click(screen.getByRole("button", { name: "Click: mend the selection" }));
    expect(did.onAdd).toHaveBeenCalledWith({ type: "click", start_s: 6, end_s: 6.1 });
  });
});
