import { describe, expect, test } from "vitest";

import type { Step } from "../../api/types";
import { keepHistory, keptHistory } from "./historyStore";
import { commonSteps, emptyHistory, historyAfter, type Act, type History } from "./chainHistory";
import { sameSteps } from "../../chains/sameSteps";

const step = (type: string, params = {}): Step => ({ type, enabled: true, params });
const start: History = { ...emptyHistory, steps: [step("a"), step("b"), step("c")] };
const types = (h: History) => h.steps.map((s) => s.type).join("");
const after = (...acts: Act[]) => acts.reduce(historyAfter, start);

describe("chain history", () => {
  test.each<[string, Act, string]>([
    ["adds in between", { kind: "add", step: step("x"), at: 1 }, "axbc"],
    ["adds at the end", { kind: "add", step: step("x"), at: 3 }, "abcx"],
    ["removes", { kind: "remove", at: 1 }, "ac"],
    ["moves to the right", { kind: "move", from: 0, to: 2 }, "bca"],
    ["moves to the left", { kind: "move", from: 2, to: 0 }, "cab"],
    ["replaces", { kind: "replace", steps: [step("z")] }, "z"],
  ])("%s, undoes and redoes", (_, act, expected) => {
    const once = after(act);
    expect(types(once)).toBe(expected);
    const undone = historyAfter(once, { kind: "undo" });
    expect(types(undone)).toBe("abc");
    expect(types(historyAfter(undone, { kind: "redo" }))).toBe(expected);
  });

  test("setting and switching change one step only", () => {
    const h = after({ kind: "set", at: 1, params: { ratio: 3 } }, { kind: "switch", at: 2, enabled: false });
    expect(h.steps).toEqual([step("a"), step("b", { ratio: 3 }), { ...step("c"), enabled: false }]);
  });

  test("what changes nothing is not remembered", () => {
    expect(after({ kind: "switch", at: 0, enabled: true }).past).toHaveLength(0);
    expect(after({ kind: "undo" })).toBe(start);
  });

  test("cuts are undone in the order things were done", () => {
    const edits = { ...emptyHistory.edits, cuts: [{ start_s: 1, end_s: 2 }] };
    const h = after({ kind: "edit", edits }, { kind: "remove", at: 0 }, { kind: "undo" });
    expect([types(h), h.edits]).toEqual(["abc", edits]);
    const undone = historyAfter(h, { kind: "undo" });
    expect(undone.edits).toEqual(emptyHistory.edits);
    expect(historyAfter(undone, { kind: "redo" }).edits).toEqual(edits);
    expect(after({ kind: "kept", edits })).toMatchObject({ edits, past: [] });
  });

  test("a new act forgets what was undone", () => {
    const h = after({ kind: "remove", at: 0 }, { kind: "undo" }, { kind: "remove", at: 2 });
    expect(h.future).toHaveLength(0);
  });

  test("chains compare by their settings, whatever the order of keys", () => {
    expect(sameSteps([step("a", { x: 1, y: 2 })], [step("a", { y: 2, x: 1 })])).toBe(true);
    expect(commonSteps(start.steps, [step("a"), step("b", { x: 1 }), step("c")])).toBe(1);
  });
});

describe("gestures and reloads", () => {
  const start: History = { ...emptyHistory, steps: [{ type: "gain", enabled: true, params: { gain_db: 0 } }] };
  const set = (history: History, gain_db: number, gesture?: string) =>
    historyAfter(history, { kind: "set", at: 0, params: { gain_db }, ...(gesture && { gesture }) });

  test("all of a drag is one step of undo", () => {
    const dragged = [1, 2, 3].reduce((history, db) => set(history, db, "drag 1"), start);
    expect(dragged.past).toHaveLength(1);
    const again = set(dragged, 4, "drag 2");
    expect(again.past).toHaveLength(2);
    expect(historyAfter(historyAfter(again, { kind: "undo" }), { kind: "undo" }).steps).toEqual(start.steps);
    expect(set(historyAfter(again, { kind: "undo" }), 5, "drag 2").past).toHaveLength(2);
  });

  test("duplicates a step behind itself", () => {
    expect(historyAfter(start, { kind: "duplicate", at: 0 }).steps).toHaveLength(2);
  });

  test("is kept in the browser; where the work is another since, what was kept is one undo away", () => {
    const history = set(start, 6);
    keepHistory("r", history);
    expect(keptHistory("r", history).past).toEqual(history.past);
    const other = set(start, 9);
    expect(keptHistory("r", other)).toEqual({ past: [...history.past, { steps: history.steps, edits: history.edits }], future: [] });
    expect(keptHistory("other", history).past).toEqual([]);
    for (const store of [localStorage, sessionStorage]) store.setItem("zesty-history-r", "{");
    expect(keptHistory("r", history).past).toEqual([]);
  });
});
