import { renderHook, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";

import type { Recording, Run, Step, Target } from "../../api/types";
import { serve, show, someRun } from "../../testing";
import { DeliverDialog } from "./DeliverDialog";
import { TargetButton } from "./TargetButton";
import { useFit } from "./useFit";

const target = { id: "t", name: "Podcast", bounds: {}, file: { container: "MP3" }, sentences: ["MP3"], description: "", created_at: "" } as Target;
const recording = { id: "rec-1", name: "Hide guide", target: "t" } as Recording;
const rule = (name: string, is_met: boolean | null) => ({ name, label: name, wanted: "w", got: "g", is_met, off_by: null });
const gain = (gain_db: number): Step => ({ type: "gain", enabled: true, params: { gain_db } });

function button(rules: unknown[], changes: { result?: Run | null; outdated?: boolean; of?: Recording; canFit?: boolean } = {}) {
  const acts = { onChoose: vi.fn(), onFit: vi.fn() };
  serve({ "GET /api/targets/t/check/": rules });
  show(<TargetButton recording={changes.of ?? recording} targets={[target]} result={changes.result ?? null} outdated={changes.outdated ?? false} canFit={changes.canFit ?? true} {...acts} />);
  return acts;
}

describe("the target on the workbench", () => {
  it.each([
    [null, false, "Podcast: 1 of 2 met, as recorded"],
    [someRun(), false, "Podcast: 1 of 2 met"],
    [someRun(), true, "Podcast: 1 of 2 met, by the last run"],
  ])("tells how many rules are met, and of what", async (result, outdated, words) => {
    button([rule("rms_dbfs", true), rule("noise_floor_dbfs", false)], { result, outdated });
    expect(await screen.findByRole("button", { name: words })).toBeInTheDocument();
  });

  it("says what fitting can do and what it cannot", async () => {
    const acts = button([rule("noise_floor_dbfs", false), rule("head_s", null)], { result: someRun() });
    await userEvent.click(await screen.findByRole("button", { name: "Podcast: 0 of 2 met" }));
    expect(screen.getByText(/needs noise reduction or a gate.*Head and tail/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Fit the last steps" }));
    expect(acts.onFit).toHaveBeenCalledOnce();
  });

  it("without one there is a choice; without a chain nothing to fit", async () => {
    const acts = button([], { of: { ...recording, target: null } });
    await userEvent.click(screen.getByRole("button", { name: "No target" }));
    await userEvent.click(screen.getByRole("combobox", { name: "Target" }));
    await userEvent.click(screen.getByRole("option", { name: "Podcast" }));
    expect(acts.onChoose).toHaveBeenCalledWith("t");
  });

  it("a chain must be there to be fitted", async () => {
    button([rule("rms_dbfs", false)], { canFit: false });
    await userEvent.click(await screen.findByRole("button", { name: /Podcast: 0 of 1/ }));
    expect(screen.getByRole("button", { name: "Fit the last steps" })).toBeDisabled();
    expect(screen.getByText("Add a step or apply a recipe first.")).toBeInTheDocument();
  });
});

describe("fitting", () => {
  const hook = (steps: Step[]) => {
    const adopt = vi.fn();
    const made = renderHook((props: { done: Run[]; steps: Step[] }) => useFit(props.done, props.steps, adopt), { initialProps: { done: [] as Run[], steps } });
    return { adopt, ...made };
  };
  const fitted = someRun({ id: "fit", chain: [{ type: "limiter", enabled: true }] });

  it("the steps of the run become the chain", () => {
    const { adopt, result, rerender } = hook([gain(1)]);
    result.current(someRun({ id: "fit" }));
    rerender({ done: [fitted], steps: [gain(1)] });
    expect(adopt).toHaveBeenCalledExactlyOnceWith(fitted.chain);
    rerender({ done: [fitted, someRun()], steps: [gain(1)] });
    expect(adopt).toHaveBeenCalledOnce();
  });

  it("a chain that was changed meanwhile is left alone, and so is any other run", () => {
    const { adopt, result, rerender } = hook([gain(1)]);
    rerender({ done: [fitted], steps: [gain(1)] });
    result.current(someRun({ id: "fit" }));
    rerender({ done: [], steps: [gain(2)] });
    rerender({ done: [fitted], steps: [gain(2)] });
    expect(adopt).not.toHaveBeenCalled();
  });
});

describe("delivering one file", () => {
  it("shows its name, keeps the chain first and orders towards the target", async () => {
    const settle = vi.fn(() => Promise.resolve(true));
    const asked = serve({
      "POST /api/batches/preview/": [{ recording: "rec-1", file_name: "Hide guide.mp3", tags: {}, offset_lu: 0 }], "POST /api/batches/": { id: "b" },
    });
    show(<DeliverDialog open onClose={vi.fn()} recording={recording} targets={[target]} result={someRun()} settle={settle} />);
    expect(await screen.findByText("Hide guide.mp3")).toBeInTheDocument();
    expect(screen.getByRole("link", { name: "Download the last result" })).toHaveAttribute("href", "/api/runs/run-1/result/");
    await userEvent.click(screen.getByRole("button", { name: "Deliver the file" }));
    expect(settle).toHaveBeenCalledOnce();
    const sent = asked.find((a) => a.path === "/api/batches/" && a.method === "POST")?.body;
    expect(sent).toMatchObject({ recordings: ["rec-1"], recipe: null, target: "t", name: "Hide guide" });
  });

  it("is set up as an earlier delivery: tags, cover, names and kind of file, but not its recipe", async () => {
    const earlier = {
      id: "b0", name: "October letters", recipe: "r", recipe_name: "Calm", recipe_version: 3, ordered_target: null, target_name: "Gone", file: { container: "MP3" }, name_pattern: "{show}-{take:02}",
      set_level: "keep", tags: { artist: "Observatory", title: "October", track: "9" }, cover: "c", paused: false, created_at: "2026-10-01T10:00:00Z", done: 1, to_go: 0, stopped: 0,
    };
    const asked = serve({
      "GET /api/batches/": [earlier], "POST /api/batches/preview/": [{ recording: "rec-1", file_name: "Letters-02.mp3", tags: {}, offset_lu: 0 }], "POST /api/batches/": { id: "b" },
    });
    show(<DeliverDialog open onClose={vi.fn()} recording={recording} targets={[target]} result={null} settle={() => Promise.resolve(true)} />);
    await userEvent.click(await screen.findByRole("combobox", { name: "Set up as" }));
    await userEvent.click(screen.getByRole("option", { name: /October letters/ }));
    expect(screen.getByLabelText("File name")).toHaveValue("{show}-{take:02}");
    await userEvent.click(screen.getByRole("button", { name: "Tags (3)" }));
    expect(screen.getByLabelText("artist")).toHaveValue("Observatory");
    await userEvent.click(screen.getByRole("button", { name: "Deliver the file" }));
    const sent = asked.find((a) => a.path === "/api/batches/" && a.method === "POST")?.body;
    expect(sent).toMatchObject({ recordings: ["rec-1"], recipe: null, target: "t", set_level: "alike", file: { container: "MP3" }, tags: { artist: "Observatory", title: "{title}" }, cover: "c", name: "Hide guide" });
  });

  it("is fetched when it is made, and tells its rules", async () => {
    const fetched = vi.spyOn(HTMLAnchorElement.prototype, "click").mockImplementation(() => undefined);
    const rule = { name: "true_peak_dbtp", label: "True peak", wanted: "at most −1.0 dBTP", got: "−1.2 dBTP", is_met: true, off_by: null };
    const delivery = { id: "d", file_name: "Hide guide.mp3", rules: [rule], target_name: "Podcast" };
    serve({
      "POST /api/batches/preview/": [{ recording: "rec-1", file_name: "Hide guide.mp3", tags: {}, offset_lu: 0 }], "POST /api/batches/": { id: "b" },
      "GET /api/batches/": [], "GET /api/batches/b/": { id: "b", runs: [{ ...someRun({ batch: "b" }), delivery }] },
    });
    const onClose = vi.fn();
    show(<DeliverDialog open onClose={onClose} recording={{ ...recording, target: null }} targets={[]} result={null} settle={() => Promise.resolve(true)} />);
    expect(screen.getByRole("combobox", { name: "Format" })).toHaveTextContent("MP3");
    await userEvent.click(await screen.findByRole("button", { name: "Deliver the file" }));
    expect(await screen.findByText(/is made and downloaded/)).toBeVisible();
    expect(screen.getByText("True peak")).toBeVisible();
    expect(fetched).toHaveBeenCalledOnce();
    expect((fetched.mock.contexts[0] as HTMLAnchorElement).href).toContain("/api/deliveries/d/file/");
    await userEvent.click(screen.getByRole("button", { name: "Close" }));
    expect(onClose).toHaveBeenCalledOnce();
  });

  it("that could not be made says why and can be tried again", async () => {
    serve({
      "POST /api/batches/preview/": [], "POST /api/batches/": { id: "b" }, "GET /api/batches/": [],
      "GET /api/batches/b/": { id: "b", runs: [{ ...someRun({ state: "failed", error: "no room on the disk" }), delivery: null }] },
    });
    show(<DeliverDialog open onClose={vi.fn()} recording={recording} targets={[target]} result={null} settle={() => Promise.resolve(true)} />);
    await userEvent.click(await screen.findByRole("button", { name: "Deliver the file" }));
    expect(await screen.findByText("no room on the disk")).toBeVisible();
    await userEvent.click(screen.getByRole("button", { name: "Try again" }));
    expect(await screen.findByRole("button", { name: "Deliver the file" })).toBeVisible();
  });
});
