import { describe, expect, it, test } from "vitest";

import type { Recording } from "../../api/types";
import { chosenInOrder, groupChoices, listed, NEWEST, pressed, EVERYTHING, type SortKey } from "./listOrder";

const recording = (name: string, more: object = {}): Recording =>
  ({
    name, label: "", group: "", notes: "", take: null, advice: [], latest_run: null,
    created_at: "2031-05-01", measures: null, ...more,
  }) as unknown as Recording;

const all = [
  recording("Causeway", { group: "Hide guides", created_at: "2031-05-03", measures: { clearance_db: 21 }, latest_run: "x" }),
  recording("Letters 31", { notes: "gulls", created_at: "2031-05-02", measures: { clearance_db: 40 }, advice: [{}, {}] }),
  recording("Letters 4", { group: "Letters", take: 3, created_at: "2031-05-04", measures: { clearance_db: null } }),
];
test("what is chosen keeps the order of the list, with what the filter hides at the end", () => {
  const [one, two, three] = ["1", "2", "3"].map((id) => ({ ...recording(id), id }));
  const there = [one, two, three].filter((r) => r !== undefined);
  expect(chosenInOrder(there, there.toReversed().slice(0, 2), new Set(["1", "2", "3"])).map((r) => r.id)).toEqual(["3", "2", "1"]);
});

const names = (found: Recording[]) => found.map((r) => r.name);

describe("the list of recordings", () => {
  it.each<[SortKey, boolean, string[]]>([
    ["came", true, ["Letters 4", "Causeway", "Letters 31"]],
    ["name", false, ["Causeway", "Letters 4", "Letters 31"]],
    ["clearance", false, ["Causeway", "Letters 31", "Letters 4"]],
    ["clearance", true, ["Letters 31", "Causeway", "Letters 4"]],
    ["advice", true, ["Letters 31", "Causeway", "Letters 4"]],
  ])("sorts by %s, down %s, unknown figures last", (key, down, expected) => {
    expect(names(listed(all, EVERYTHING, { key, down }))).toEqual(expected);
  });

  it.each<[string, string, string[]]>([
    ["gulls", "all", ["Letters 31"]],
    ["letters guides", "all", []],
    ["take 3", "all", ["Letters 4"]],
    ["", "advice", ["Letters 31"]],
    ["", "unrun", ["Letters 4", "Letters 31"]],
    ["", "group:Hide guides", ["Causeway"]],
    ["nothing like it", "all", []],
  ])("finds %j among %s", (words, only, expected) => {
    expect(names(listed(all, { words, only }, NEWEST))).toEqual(expected);
  });

  it("offers the groups there are", () => {
    expect(groupChoices(all)).toEqual([["group:Hide guides", "Hide guides"], ["group:Letters", "Letters"]]);
  });

  it("turns a column round when its head is pressed again", () => {
    const once = pressed(NEWEST, "peak");
    expect(once).toEqual({ key: "peak", down: true });
    expect(pressed(once, "peak")).toEqual({ key: "peak", down: false });
    expect(pressed(once, "name")).toEqual({ key: "name", down: false });
  });
});
