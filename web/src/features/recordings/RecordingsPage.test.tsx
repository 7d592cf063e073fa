import { act, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";

import { serve, show, type Asked } from "../../testing";
import { RecordingsPage } from "./RecordingsPage";
import { UploadsProvider } from "./UploadsProvider";

const recording = (id: string, name: string, more: object = {}) => ({
  id, name, label: "guide", group: "", take: null, notes: "", original_name: `${name}.wav`, size_bytes: 1,
  container: "WAV", subtype: "PCM_24", sample_rate_hz: 48_000, channels: 1, duration_s: 31.9,
  measures: { true_peak_dbtp: -12, voice_level_dbfs: -29.7, noise_floor_dbfs: -55.6, clearance_db: 25.9 },
  advice: [], cuts: [], mono: "", chain: [], recipe: null, recipe_name: null, recipe_version: null, recipe_steps: null,
  chain_sentences: [], room_tone: null, latest_run: null, state: "done", progress: 1, doing: "", error: "",
  error_code: "", created_at: `2031-05-0${id}`, finished_at: null, ...more,
});

const finding = { code: "hum", text: "Mains hum at 50 Hz.", act: null, at_s: [] };
const all = [
  recording("1", "Causeway", { advice: [finding, { ...finding, code: "boxy", text: "The room rings." }] }),
  recording("2", "Saltmarsh", { group: "Hide guides", take: 2, measures: { true_peak_dbtp: 0.2, voice_level_dbfs: -13, noise_floor_dbfs: -47, clearance_db: 34 } }),
  recording("3", "Broken", { state: "failed", error: "Broken.wav: ends early", measures: null }),
  recording("4", "Coming", { state: "running", progress: 0.4, measures: null }),
];

function showPage(more: Record<string, unknown> = {}): Asked[] {
  const asked = serve({
    "GET /api/recordings/": all,
    "GET /api/recipes/": [],
    "GET /api/recordings/1/overview/": { bin_s: 1, start_s: 0, low: [0], high: [0], rms: [0] },
    "GET /api/recordings/2/overview/": { bin_s: 1, start_s: 0, low: [0], high: [0], rms: [0] },
    ...more,
  });
  show(<UploadsProvider><RecordingsPage /></UploadsProvider>);
  return asked;
}

const names = () =>
  screen.getAllByRole("row").slice(1).map((row) => within(row).getAllByRole("link")[0]?.textContent);

describe("the page of recordings", () => {
  it("shows figures, findings, faults and progress", async () => {
    showPage();
    const hot = await screen.findByRole("row", { name: /Saltmarsh/ });
    expect(hot).toHaveTextContent("+0.2");
    expect(hot).toHaveTextContent("Hide guides, take 2, guide");
    expect(screen.getByRole("link", { name: "2 findings" })).toHaveAttribute("href", "/recordings/1");
    expect(screen.getByRole("row", { name: /Broken/ })).toHaveTextContent("ends early");
    expect(screen.getByRole("progressbar", { name: "Measuring Coming" })).toHaveAttribute("aria-valuenow", "40");
    expect(screen.getByText(/4 recordings/)).toBeInTheDocument();
  });

  it("tries again what could not be measured, and says what is done with what is coming", async () => {
    const decoding = recording("4", "Coming", { state: "running", progress: 0.4, doing: "decoding", measures: null });
    const asked = showPage({ "GET /api/recordings/": [...all.slice(0, 3), decoding], "POST /api/recordings/3/retry/": all[2] });
    expect(await screen.findByText("Decoding, 40 %")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Try again: Broken" }));
    // It can be deleted, but not be worked on.
    await userEvent.click(screen.getByRole("checkbox", { name: "Choose Broken" }));
    expect(screen.getByRole("button", { name: "Batch these" })).toBeDisabled();
    expect(screen.getByRole("button", { name: "Delete" })).toBeEnabled();
    expect(asked.filter((a) => a.method === "POST").map((a) => a.path)).toEqual(["/api/recordings/3/retry/"]);
  });

  it("asks for a waveform when its row comes near what is seen", async () => {
    let scrolledTo = () => {};
    vi.spyOn(IntersectionObserver.prototype, "observe").mockImplementation(function (this: IntersectionObserver & { tell?: IntersectionObserverCallback }, row) {
      if (row.closest("tr")?.textContent.includes("Causeway")) scrolledTo = () => this.tell?.([{ isIntersecting: true } as IntersectionObserverEntry], this);
    });
    const asked = showPage();
    await screen.findByRole("row", { name: /Causeway/ });
    const overviews = () => asked.filter((a) => a.path.endsWith("/overview/")).map((a) => a.path);
    expect(overviews()).toEqual([]);
    act(() => scrolledTo());
    expect(await screen.findByRole("img", { name: "Waveform of Causeway" })).toBeInTheDocument();
    expect(overviews()).toEqual(["/api/recordings/1/overview/"]);
  });

  it("sorts by a column and back", async () => {
    showPage();
    await screen.findByRole("row", { name: /Saltmarsh/ });
    expect(names()).toEqual(["Coming", "Broken", "Saltmarsh", "Causeway"]);
    await userEvent.click(screen.getByRole("button", { name: "Recording" }));
    expect(names()).toEqual(["Broken", "Causeway", "Coming", "Saltmarsh"]);
    await userEvent.click(screen.getByRole("button", { name: "Peak" }));
    expect(names().slice(0, 2)).toEqual(["Saltmarsh", "Causeway"]);
    expect(screen.getByRole("columnheader", { name: /Peak/ })).toHaveAttribute("aria-sort", "descending");
  });

  it("gives chains back that a recipe took the place of", async () => {
    const own = [{ type: "gain", enabled: true, params: { gain_db: 2 } }];
    const asked = showPage({
      "GET /api/recordings/": [recording("1", "Causeway", { chain: own, recipe: "old", recipe_version: 3 }), recording("2", "Saltmarsh")],
      "GET /api/recipes/": [{ id: "r", name: "Calm", sentences: [], steps: [] }],
      "POST /api/recordings/1/apply-recipe/": {}, "POST /api/recordings/2/apply-recipe/": {}, "PUT /api/recordings/1/chain/": {}, "PUT /api/recordings/2/chain/": {},
    });
    await userEvent.click(await screen.findByRole("checkbox", { name: "Choose Causeway" }));
    await userEvent.click(screen.getByRole("checkbox", { name: "Choose Saltmarsh" }));
    await userEvent.click(screen.getByRole("button", { name: "Apply a recipe" }));
    await userEvent.click(screen.getByRole("menuitem", { name: "Calm" }));
    expect(await screen.findByText("Calm is the chain of 2 recordings")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Take back" }));
    await waitFor(() => expect(screen.queryByText(/is the chain of/)).toBeNull());
    expect(asked.filter((a) => a.method === "PUT").map((a) => a.body)).toEqual([
      { steps: [], recipe: null, recipe_version: null },
      { steps: own, recipe: "old", recipe_version: 3 },
    ]);
  });

  it("gives back what a recipe took the place of before it failed", async () => {
    const asked = showPage({
      "GET /api/recipes/": [{ id: "r", name: "Calm", sentences: [], steps: [] }],
      "POST /api/recordings/2/apply-recipe/": {}, "POST /api/recordings/1/apply-recipe/": [400, { error: { message: "not that one" } }],
      "PUT /api/recordings/2/chain/": {},
    });
    await userEvent.click(await screen.findByRole("checkbox", { name: "Choose Causeway" }));
    await userEvent.click(screen.getByRole("checkbox", { name: "Choose Saltmarsh" }));
    await userEvent.click(screen.getByRole("button", { name: "Apply a recipe" }));
    await userEvent.click(screen.getByRole("menuitem", { name: "Calm" }));
    expect(await screen.findByText("not that one")).toBeInTheDocument();
    expect(screen.getByText("Calm is the chain of Saltmarsh")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Take back" }));
    await waitFor(() => expect(screen.queryByText(/is the chain of/)).toBeNull());
    expect(asked.filter((a) => a.method === "PUT").map((a) => a.path)).toEqual(["/api/recordings/2/chain/"]);
  });

  it("searches and filters, and finds the way back from nothing", async () => {
    showPage();
    await screen.findByRole("row", { name: /Saltmarsh/ });
    await userEvent.type(screen.getByLabelText("Find recordings"), "hide");
    expect(names()).toEqual(["Saltmarsh"]);
    await userEvent.type(screen.getByLabelText("Find recordings"), " none");
    await userEvent.click(screen.getByRole("button", { name: "Show all" }));
    expect(names()).toHaveLength(4);
    await userEvent.click(screen.getByLabelText("Show only"));
    await userEvent.click(screen.getByRole("option", { name: "With findings" }));
    expect(names()).toEqual(["Causeway"]);
  });

  it("describes one recording", async () => {
    const asked = showPage({ "PATCH /api/recordings/2/": all[1] });
    await userEvent.click(await screen.findByLabelText("Choose Saltmarsh"));
    await userEvent.click(screen.getByRole("button", { name: "Describe" }));
    const dialog = screen.getByRole("dialog", { name: "Describe the recording" });
    await userEvent.clear(within(dialog).getByLabelText("Take"));
    await userEvent.type(within(dialog).getByLabelText("Take"), "x");
    expect(within(dialog).getByRole("button", { name: "Save" })).toBeDisabled();
    await userEvent.clear(within(dialog).getByLabelText("Take"));
    await userEvent.type(within(dialog).getByLabelText("Take"), "7");
    await userEvent.type(within(dialog).getByLabelText("Notes"), "gulls");
    await userEvent.click(within(dialog).getByRole("button", { name: "Save" }));
    await waitFor(() => expect(asked.some((a) => a.method === "PATCH")).toBe(true));
    expect(asked.find((a) => a.method === "PATCH")?.body).toEqual({
      name: "Saltmarsh", label: "guide", group: "Hide guides", notes: "gulls", take: 7,
    });
  });

  it("gives several one group", async () => {
    const asked = showPage({ "PATCH /api/recordings/1/": all[0], "PATCH /api/recordings/2/": all[1] });
    await userEvent.click(await screen.findByLabelText("Choose Saltmarsh"));
    await userEvent.click(screen.getByLabelText("Choose Causeway"));
    await userEvent.click(screen.getByRole("button", { name: "Group" }));
    await userEvent.type(screen.getByLabelText("Show, client or project"), "Letters");
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(asked.filter((a) => a.method === "PATCH")).toHaveLength(2));
    expect(asked.filter((a) => a.method === "PATCH").map((a) => a.body)).toEqual([{ group: "Letters" }, { group: "Letters" }]);
  });

  it("deletes after asking, and takes back", async () => {
    const asked = showPage({ "DELETE /api/recordings/1/": [204, null], "POST /api/recordings/1/take-back/": all[0] });
    await userEvent.click(await screen.findByLabelText("Choose Causeway"));
    await userEvent.click(screen.getByRole("button", { name: "Delete" }));
    const dialog = screen.getByRole("dialog", { name: "Delete Causeway?" });
    expect(dialog).toHaveTextContent("taken back");
    await userEvent.click(within(dialog).getByRole("button", { name: "Delete" }));
    expect(await screen.findByText("Causeway deleted")).toBeInTheDocument();
    await userEvent.click(await screen.findByRole("button", { name: "Take back" }));
    await waitFor(() => expect(asked.at(-1)?.path).toBeDefined());
    expect(asked.map((a) => `${a.method} ${a.path}`)).toContain("POST /api/recordings/1/take-back/");
  });

  it("says what went wrong when a recording cannot be taken back", async () => {
    showPage({
      "DELETE /api/recordings/1/": [204, null],
      "POST /api/recordings/1/take-back/": [400, { error: { code: "duplicate", message: "Causeway.wav: is here already", path: null } }],
    });
    await userEvent.click(await screen.findByLabelText("Choose Causeway"));
    await userEvent.click(screen.getByRole("button", { name: "Delete" }));
    await userEvent.click(within(screen.getByRole("dialog")).getByRole("button", { name: "Delete" }));
    await userEvent.click(await screen.findByRole("button", { name: "Take back" }));
    expect(await screen.findByText("Causeway.wav: is here already")).toBeVisible();
  });
});
