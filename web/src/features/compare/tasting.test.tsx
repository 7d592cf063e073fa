import { noEdits } from "../../audio/cutTimes";
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";

import type { TimeSeries, Measures } from "../../api/types";
import { show, serve } from "../../testing";
import { HistogramPicture } from "./HistogramPicture";
import { LoudnessPicture } from "./LoudnessPicture";
import { sideOptions } from "./SideChoice";
import type { Heard, Side } from "./sides";
import * as asking from "./sides";
import { removedDbfs } from "./sides";
import { rankedAt, shuffled } from "./tasting";
import { TastingPage } from "./TastingPage";
import { TastingTable } from "./TastingTable";

const went = vi.fn();
const asks = vi.hoisted(() => ({ now: new URLSearchParams() }));
vi.mock("react-router", async (load) => ({ ...(await load<object>()), useNavigate: () => went, useParams: () => ({ recordingId: "rec-1" }), useSearchParams: () => [asks.now] }));
vi.mock("../../audio/sideLoop", () => ({
  SideLoop: class {
    state = { playing: false, heard: 0, matched: true };
    subscribe = () => () => undefined;
    snapshot = () => this.state;
    take = vi.fn();
    close = vi.fn();
    choose = vi.fn();
    play = vi.fn();
    match = vi.fn();
    toggle = vi.fn();
  },
}));

const timeSeries: TimeSeries = {
  start_s: 0, end_s: 4, step_s: 1, momentary_lufs: [null, -20, -22, -21], short_term_lufs: [null, null, -21, null], integrated_lufs: -21,
  lowest_dbfs: -90, levels: Array.from({ length: 90 }, (_, i) => (i === 30 ? 0.4 : i === 70 ? 0.6 : 0)), freqs_hz: [100, 1000], spectrum_dbfs: [-40, -50],
};
const heard = (more: Partial<Heard> = {}): Heard => ({
  error: null, note: null, measures: { integrated_lufs: -21 } as Measures, timeSeries, differences: [], voiceGainDb: 0, channels: [new Float32Array(4)], ...more,
});

describe("rankings", () => {
  it.each([
    [[], 2, 0, [2]],
    [[2], 0, 1, [2, 0]],
    [[2, 0], 1, 0, [1, 2, 0]],
    [[1, 2, 0], 0, 0, [0, 1, 2]],
  ])("%j: %d at place %d", (ranking, entry, place, expected) => expect(rankedAt(ranking, entry, place)).toEqual(expected));

  it("an order drawn by chance holds each once and leans nowhere", () => {
    const firsts = [0, 0, 0, 0];
    for (let i = 0; i < 4000; i += 1) {
      const order = shuffled(4);
      expect([...order].sort()).toEqual([0, 1, 2, 3]);
      firsts[order[0] ?? 0] = (firsts[order[0] ?? 0] ?? 0) + 1;
    }
    for (const count of firsts) expect(Math.abs(count - 1000)).toBeLessThan(150);
  });
});

describe("a blind tasting", () => {
  const sides: Side[] = ["Calm", "Bright"].map((label) => ({ kind: "chain", label, steps: [] }));

  it("tells no name before the ranking is kept, then makes the best the chain", async () => {
    vi.spyOn(asking, "useSides").mockReturnValue({ data: { sampleRateHz: 48000, startS: 0, endS: 4, heard: [heard(), heard()] } } as unknown as ReturnType<typeof asking.useSides>);
    const asked = serve({ "POST /api/tastings/": [201, {}] });
    show(<TastingTable recordingId="rec-1" sides={sides} span={{ startS: 0, endS: 4 }} blind onAgain={vi.fn()} />);
    expect(screen.queryByText("Calm")).toBeNull();
    expect(screen.queryByText(/LUFS/)).toBeNull();
    expect(screen.getByRole("button", { name: "Keep the ranking and tell the names" })).toBeDisabled();
    await userEvent.type(screen.getByLabelText("Note on 2"), "clear");
    for (const which of [2, 1]) {
      await userEvent.click(screen.getByRole("combobox", { name: `Place of ${which}` }));
      const options = within(screen.getByRole("listbox")).getAllByRole("option");
      await userEvent.click(options.at(-1) ?? screen.getByRole("listbox"));
    }
    await userEvent.click(screen.getByRole("button", { name: "Keep the ranking and tell the names" }));
    expect(await screen.findByText("Kept. Best liked: Bright.")).toBeInTheDocument();
    const kept = asked.find((a) => a.path === "/api/tastings/")?.body as { entries: { label: string; note: string }[] };
    expect(kept.entries.map((e) => `${e.label} ${e.note}`)).toEqual(["Bright clear", "Calm "]);
    await userEvent.click(screen.getByRole("button", { name: "Use it as the chain: Bright" }));
    // It is a change on the workbench, where it can be undone.
    expect(went).toHaveBeenCalledWith("/recordings/rec-1", { state: { chain: [] } });
  });

  it("one that cannot be rendered says why and can have no place", () => {
    vi.spyOn(asking, "useSides").mockReturnValue({ data: { sampleRateHz: 48000, startS: 0, endS: 4, heard: [heard({ error: "steps[0].type: unknown" }), heard()] } } as unknown as ReturnType<typeof asking.useSides>);
    show(<TastingTable recordingId="rec-1" sides={sides} span={{ startS: 0, endS: 4 }} blind={false} onAgain={vi.fn()} />);
    expect(screen.getByText("steps[0].type: unknown")).toBeInTheDocument();
    expect(screen.getByRole("button", { name: "1" })).toBeDisabled();
  });
});

describe("sides", () => {
  it("the removed sound has a level of its own", () => {
    const [a, b] = [heard({ channels: [new Float32Array([0.5, -0.5])] }), heard({ channels: [new Float32Array([0.4, -0.4])] })];
    expect(removedDbfs(a, b, 0)).toBeCloseTo(-20);
    expect(removedDbfs(a, b, 20 * Math.log10(0.8))).toBeLessThan(-100);
    expect(removedDbfs(a, heard({ channels: [] }), 0)).toBeNull();
    expect(removedDbfs(a, a, 0)).toBeNull();
  });

  it("every step's tap, result, recipe and other recording can stand on a side", () => {
    const recording = { id: "r", chain: [{ type: "eq", enabled: true, params: {} }] } as never;
    const options = sideOptions({ recording, types: [{ type: "eq", label: "EQ" } as never], runs: [], recipes: [{ id: "1", name: "Calm", steps: [] } as never], others: [{ id: "o", name: "Other", proposed_passage: { start_s: 3 } } as never] });
    expect(options.map((o) => o.side.label)).toEqual(["As recorded", "1. After EQ", "Calm", "Other"]);
    expect(options.at(-1)?.side).toMatchObject({ kind: "recording", of: "o", start_s: 3 });
  });
});

describe("pictures of two sides", () => {
  it("say in words what they show", () => {
    show(
      <>
        <LoudnessPicture a={timeSeries} b={timeSeries} width={400} height={200} louderDb={3} target={{ low: -22, high: -20 }} onZoom={null} />
        <HistogramPicture a={timeSeries} b={timeSeries} marks={[{ voice: -20, noise: -60 }, { voice: -19, noise: null }]} width={400} height={200} />
      </>,
    );
    expect(screen.getByRole("img", { name: /Before: integrated −21.0. After: integrated −21.0, drawn 3.0 dB softer/ })).toBeInTheDocument();
    expect(screen.getByRole("img", { name: /Before: voice −20.0, noise −60.0. After: voice −19.0, noise –/ })).toBeInTheDocument();
  });
});

describe("a proposal beside the recipes to start from", () => {
  it("is served blind without being asked what to taste", async () => {
    asks.now = new URLSearchParams("proposed");
    const asking_ = vi.spyOn(asking, "useSides").mockReturnValue({ data: undefined } as unknown as ReturnType<typeof asking.useSides>);
    const starters = Array.from({ length: 9 }, (_, i) => ({ id: `s${i}`, name: `Starter ${i}`, group: "To start from", steps: [] }));
    const recording = { id: "rec-1", name: "Causeway", chain: [], state: "done", ...noEdits, duration_s: 30, proposed_passage: { start_s: 2, end_s: 8 } };
    serve({
      "GET /api/recordings/rec-1/": recording, "GET /api/recordings/": [recording], "GET /api/tastings/": [],
      "GET /api/recipes/": [{ id: "own", name: "Own", group: "", steps: [] }, ...starters],
      "GET /api/recordings/rec-1/proposal/": { steps: [{ step: { type: "gain", enabled: true, params: {} }, reasons: [], mends: [] }], notes: [] },
    });
    show(<TastingPage />);
    await waitFor(() => expect(asking_).toHaveBeenCalled());
    asks.now = new URLSearchParams();
    const sides = asking_.mock.calls.at(-1)?.[2]?.map(({ label }) => label) ?? [];
    expect(sides).toHaveLength(8);
    expect(sides).toContain("Made for this recording");
    expect(sides).not.toContain("Own");
    expect(screen.queryByText("Made for this recording")).toBeNull();
  });
});

describe("takes and a client's page", () => {
  it("another take is tasted beside a chain, and both go on a page under names to choose", async () => {
    const fetched = vi.spyOn(HTMLAnchorElement.prototype, "click").mockImplementation(() => undefined);
    vi.stubGlobal("URL", Object.assign(URL, { createObjectURL: () => "blob:page", revokeObjectURL: vi.fn() }));
    const recording = { id: "rec-1", name: "Causeway", chain: [], state: "done", ...noEdits, duration_s: 30, proposed_passage: { start_s: 2, end_s: 8 } };
    const asked = serve({
      "GET /api/recordings/rec-1/": recording, "GET /api/recordings/": [recording, { ...recording, id: "rec-2", name: "Second take", proposed_passage: { start_s: 5, end_s: 9 } }],
      "GET /api/recipes/": [], "GET /api/tastings/": [], "POST /api/recordings/rec-1/client-page/": {},
    });
    show(<TastingPage />);
    await userEvent.click(await screen.findByRole("combobox", { name: "Add a take" }));
    await userEvent.click(screen.getByRole("option", { name: "Second take" }));
    await userEvent.click(screen.getByRole("checkbox", { name: "As recorded" }));
    expect(screen.getByRole("button", { name: "Taste 2" })).toBeEnabled();
    await userEvent.click(screen.getByRole("button", { name: "Page for a client" }));
    const name = screen.getByLabelText("Name of version 2");
    await userEvent.clear(name);
    await userEvent.type(name, "The calmer one");
    await userEvent.click(screen.getByRole("button", { name: "Download the page" }));
    await waitFor(() => expect(fetched).toHaveBeenCalledOnce());
    expect(asked.find((a) => a.path === "/api/recordings/rec-1/client-page/")?.body).toEqual({
      start_s: 2, end_s: 8, sides: [{ kind: "chain", steps: [] }, { kind: "recording", of: "rec-2", start_s: 5 }], names: ["As recorded", "The calmer one"],
    });
  });
});
