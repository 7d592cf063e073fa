import { renderHook, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { checkedPassage, usePassage } from "../live";
import { beforeEach, describe, expect, it, vi } from "vitest";

import { act } from "@testing-library/react";
import type { Recording, Run, Step, StepType } from "../../api/types";
import { noEdits } from "../../audio/cutTimes";
import { serve, show, someRun } from "../../testing";
import { ResultsMenu } from "./ResultsMenu";
import { SavedSettingsMenu } from "./SavedSettingsMenu";
import { useFolded } from "./useFolded";
import { pace } from "./WorkbenchHead";

const step: Step = { type: "gain", enabled: true, params: { gain_db: 2 } };
const types = [{ type: "gain", label: "Gain", settings: [] }] as unknown as StepType[];

beforeEach(() => localStorage.clear());

describe("saved settings of a step", () => {
  const kept = [
    { id: "s", type: "gain", name: "Warm", params: { gain_db: 5 }, created_at: "" },
    { id: "o", type: "eq", name: "Bright", params: {}, created_at: "" },
  ];

  it("are applied by one press, saved and deleted; those of other steps are not there", async () => {
    const asked = serve({ "GET /api/saved-settings/": kept, "POST /api/saved-settings/": kept[0], "DELETE /api/saved-settings/s/": [204, null] });
    const onSet = vi.fn();
    show(<SavedSettingsMenu step={step} type={{ label: "Gain", starters: [{ name: "A bit more", params: { gain_db: 3 } }] }} onSet={onSet} />);
    await userEvent.click(screen.getByRole("button", { name: "Saved settings" }));
    await userEvent.click(await screen.findByRole("button", { name: "Warm" }));
    expect(onSet).toHaveBeenCalledWith({ gain_db: 5 });
    await userEvent.click(screen.getByRole("button", { name: "Saved settings" }));
    await userEvent.click(screen.getByRole("button", { name: "A bit more" }));
    expect(onSet).toHaveBeenLastCalledWith({ gain_db: 3 });
    await userEvent.click(screen.getByRole("button", { name: "Saved settings" }));
    expect(screen.queryByRole("button", { name: "Bright" })).toBeNull();
    await userEvent.type(screen.getByLabelText("Name"), "Mine");
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(asked.find((a) => a.method === "POST")?.body).toEqual({ type: "gain", name: "Mine", params: { gain_db: 2 } }));
    await userEvent.click(screen.getByRole("button", { name: "Delete Warm" }));
    await waitFor(() => expect(asked.some((a) => a.method === "DELETE")).toBe(true));
  });

  it("say what is wrong with a name", async () => {
    serve({ "GET /api/saved-settings/": [], "POST /api/saved-settings/": [400, { error: { message: "name: is taken", code: "bad", path: "name" } }] });
    show(<SavedSettingsMenu step={step} type={{ label: "Gain", starters: [] }} onSet={vi.fn()} />);
    await userEvent.click(screen.getByRole("button", { name: "Saved settings" }));
    await userEvent.type(screen.getByLabelText("Name"), "Mine");
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    expect(await screen.findByText("name: is taken")).toBeVisible();
  });
});

describe("earlier results", () => {
  const run = (id: string, steps: Step[]): Run => someRun({ id, chain: steps, created_at: "2031-05-01T08:00:00Z" });

  it("are named by what is different now, and chosen", async () => {
    const onChoose = vi.fn();
    const results = [run("new", [step]), run("old", [{ ...step, enabled: false }])];
    const asked = serve({ "PATCH /api/runs/old/": someRun() });
    show(<ResultsMenu results={results} delivered={[]} shown={results[0] as Run} steps={[step]} types={types} onChoose={onChoose} />);
    await userEvent.click(screen.getByRole("button", { name: /^Result of/ }));
    expect(screen.getByText("the chain as it is now")).toBeVisible();
    expect(screen.getByText(/now different: Gain switched on/)).toBeVisible();
    const [, older] = within(screen.getByRole("dialog", { name: "Results" })).getAllByRole("button");
    await userEvent.click(older as HTMLElement);
    expect(onChoose).toHaveBeenCalledWith("old");
    const [, name] = screen.getAllByLabelText(/^Name of the result/);
    await userEvent.type(name as HTMLElement, "Warmer{Enter}");
    await waitFor(() => expect(asked.find((a) => a.method === "PATCH")?.body).toEqual({ label: "Warmer" }));
  });

  it("a named result goes by its name; delivered files stay to be fetched", async () => {
    const delivery = { id: "d", file_name: "Ebb tide.mp3", target_name: "Podcast, mono" } as unknown as NonNullable<Run["delivery"]>;
    const made = someRun({ id: "made", delivery });
    show(<ResultsMenu results={[someRun({ label: "Warmer" })]} delivered={[made]} shown={someRun({ label: "Warmer" })} steps={[step]} types={types} onChoose={vi.fn()} />);
    await userEvent.click(screen.getByRole("button", { name: "Warmer" }));
    expect(screen.getByRole("link", { name: "Ebb tide.mp3" })).toHaveAttribute("href", "/api/deliveries/d/file/");
    expect(screen.getByText(/Podcast, mono/)).toBeVisible();
  });

  it("are not there when there is none", () => {
    show(<ResultsMenu results={[]} delivered={[]} shown={null} steps={[step]} types={types} onChoose={vi.fn()} />);
    expect(screen.queryByRole("button")).toBeNull();
  });
});

describe("how fast a run goes", () => {
  const started = "2031-05-01T08:00:00Z";
  it.each([
    [{ started_at: null, progress: 0.5, duration_s: 60 }, ""],
    [{ started_at: started, progress: 0.01, duration_s: 60 }, ""],
    [{ started_at: started, progress: 0.25, duration_s: 3600 }, ", 0:30 left, 90 times real time"],
  ])("is reported once it can be", (part, words) => {
    expect(pace(someRun(part), Date.parse(started) + 10_000)).toBe(words);
  });
});

describe("the passage", () => {
  it.each([
    [{ startS: 2, endS: 6 }, 10, "both" as const, { startS: 2, endS: 6 }],
    [{ startS: -3, endS: 2 }, 10, "both" as const, { startS: 0, endS: 5 }],
    [{ startS: 8, endS: 14 }, 10, "both" as const, { startS: 4, endS: 10 }],
    [{ startS: 5.5, endS: 6 }, 10, "startS" as const, { startS: 4, endS: 6 }],
    [{ startS: 5, endS: 5.5 }, 10, "endS" as const, { startS: 5, endS: 7 }],
    [{ startS: 0, endS: 100 }, 300, "endS" as const, { startS: 0, endS: 30 }],
    [{ startS: 0, endS: 9 }, 1.5, "both" as const, { startS: 0, endS: 1.5 }],
  ])("stays within what is allowed", (passage, durationS, held, allowed) => {
    expect(checkedPassage(passage, durationS, held)).toEqual(allowed);
  });

  it("is proposed first, then remembered, and survives rubbish", () => {
    const recording = { ...noEdits, id: "r", duration_s: 60, cuts: [{ start_s: 0, end_s: 10 }], proposed_passage: { start_s: 5, end_s: 15 } } as unknown as Recording;
    const { result } = renderHook(() => usePassage(recording));
    expect(result.current[0]).toEqual({ startS: 15, endS: 25 });
    act(() => result.current[1]({ startS: 30, endS: 41 }));
    expect(renderHook(() => usePassage(recording)).result.current[0]).toEqual({ startS: 30, endS: 41 });
    localStorage.setItem("zesty-passage-r", "{nothing");
    expect(renderHook(() => usePassage(recording)).result.current[0]).toEqual({ startS: 15, endS: 25 });
  });
});

describe("folding the mirror", () => {
  it("is remembered for each kind of step", () => {
    const { result } = renderHook(() => useFolded("eq"));
    expect(result.current[0]).toBe(true);
    act(() => result.current[1](false));
    expect(result.current[0]).toBe(false);
    expect(renderHook(() => useFolded("eq")).result.current[0]).toBe(false);
    expect(renderHook(() => useFolded("compressor")).result.current[0]).toBe(false);
  });
});
