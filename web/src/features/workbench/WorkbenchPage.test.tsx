import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { Route, Routes } from "react-router";
import { beforeEach, describe, expect, it, vi } from "vitest";

import { numberSetting, serve, show, someRun, type Asked } from "../../testing";
import { noEdits } from "../../audio/cutTimes";
import { WorkbenchPage } from "./WorkbenchPage";

vi.mock("react-router", async (load) => ({
  ...(await load<object>()),
  useParams: () => ({ recordingId: "rec-1" }),
}));

const gain = { type: "gain", label: "Gain", summary: "turns up", starters: [], settings: [{ ...numberSetting, name: "gain_db", label: "Gain", default: 0 }] };
const normalize = { ...gain, type: "normalize", label: "Normalize", settings: [{ ...numberSetting, name: "target_db", label: "Peak", default: -3 }] };
const recording = (more: object = {}) => ({
  id: "rec-1", name: "Hide guide", label: "", group: "", take: null, notes: "", original_name: "a.wav", sample_rate_hz: 48_000,
  channels: 2, duration_s: 30, ...noEdits, chain: [{ type: "gain", enabled: true, params: { gain_db: 2 } }],
  chain_sentences: ["Turns everything up by 2 dB."], recipe: null, recipe_name: null, recipe_version: null, recipe_steps: null, work_version: 4,
  room_tone: null, latest_run: null, state: "done", progress: 1, doing: "", error: "", created_at: "2031-05-01",
  measures: { true_peak_dbtp: -12, voice_level_dbfs: -30, noise_floor_dbfs: -55, clearance_db: 25, clipped_at_s: [], found_room_tone: null },
  advice: [
    { code: "dc_offset", text: "The waveform rides 0.4 % above.", act: { kind: "add_step", text: "Add Normalize", with: { type: "normalize", enabled: true, params: {} } }, at_s: [] },
    { code: "one_sided", text: "Stereo, but the sound is on the left.", act: { kind: "mono", text: "Make mono of the left side", with: { choice: "left" } }, at_s: [] },
  ],
  ...more,
});

function showPage(more: Record<string, unknown> = {}, runs: object[] = [], brought?: object) {
  const answers: Record<string, unknown> = {
    "GET /api/recordings/rec-1/": recording(),
    "GET /api/step-types/": [normalize, gain],
    "GET /api/recipes/": [],
    "GET /api/room-tones/": [],
    "GET /api/runs/": runs,
    "GET /api/recordings/rec-1/overview/": { bin_s: 1, start_s: 0, low: [0], high: [0], rms: [0] },
    "GET /api/runs/run-1/overview/": { bin_s: 1, start_s: 0, low: [0], high: [0], rms: [0] },
    "PUT /api/recordings/rec-1/chain/": recording(),
    "PUT /api/recordings/rec-1/edits/": recording({ mono: "left" }),
    "PUT /api/recordings/rec-1/ends/": recording({ pad_start_s: 0.5 }),
    ...more,
  };
  const asked = serve(answers);
  show(
    <Routes>
      <Route path="*" element={<WorkbenchPage />} />
    </Routes>,
    brought,
  );
  return Object.assign(asked, { answers });
}

const lastSent = (asked: Asked[], path: string) => asked.filter((a) => a.path === `/api/recordings/rec-1/${path}/`).at(-1)?.body as Record<string, unknown> | null | undefined;

/** The last change sent, but for the version it was made on. */
function sent(asked: Asked[], path: string) {
  const body = lastSent(asked, path);
  if (!body) return undefined;
  return Object.fromEntries(Object.entries(body).filter(([name]) => name !== "work_version"));
}

beforeEach(() => {
  localStorage.clear();
  sessionStorage.clear();
  vi.spyOn(HTMLMediaElement.prototype, "load").mockImplementation(() => undefined);
  vi.spyOn(HTMLMediaElement.prototype, "pause").mockImplementation(() => undefined);
});

describe("the workbench", () => {
  it("shows the chain, its sentence and the levels as recorded", async () => {
    showPage();
    expect(await screen.findByRole("heading", { name: "Hide guide", level: 1 })).toBeVisible();
    expect(await screen.findByText("Turns everything up by 2 dB.")).toBeInTheDocument();
    expect(screen.getByText(/Own chain, not run yet/)).toBeInTheDocument();
    expect(screen.getByRole("img", { name: /^Level path/ })).toHaveAccessibleName(/As recorded/);
  });

  it("adds the step a finding proposes, where it usually stands", async () => {
    const asked = showPage();
    await userEvent.click(await screen.findByRole("button", { name: "2 findings" }));
    const findings = screen.getByRole("dialog", { name: "Findings about the recording" });
    await userEvent.click(await within(findings).findByRole("button", { name: "Add Normalize" }));
    expect(await within(findings).findByText("in the chain")).toBeInTheDocument();
    await waitFor(() =>
      expect(sent(asked, "chain")).toEqual({
        steps: [
          { type: "normalize", enabled: true, params: { target_db: -3 } },
          { type: "gain", enabled: true, params: { gain_db: 2 } },
        ],
      }),
    );
  });

  it("takes over a chain that is brought along, and undo brings back its own", async () => {
    const chain = [{ type: "normalize", enabled: true, params: { target_db: -6 } }];
    const asked = showPage({}, [], { chain });
    await waitFor(() => expect(sent(asked, "chain")).toEqual({ steps: chain }));
    await userEvent.keyboard("{Control>}z{/Control}");
    await waitFor(() => expect(sent(asked, "chain")).toEqual({ steps: recording().chain }));
  });

  it("says where to begin while the chain is empty", async () => {
    const recipe = { id: "rec-a", name: "Boat shed", description: "Calm noise.", version: 1, steps: [] };
    const empty = { "GET /api/recordings/rec-1/": recording({ chain: [] }), "GET /api/recipes/": [recipe] };
    const asked = showPage({ ...empty, "POST /api/recordings/rec-1/apply-recipe/": recording() });
    const begin = within(await screen.findByRole("region", { name: "Where to begin" }));
    expect(begin.getByText("Calm noise.")).toBeVisible();
    await userEvent.click(begin.getByRole("button", { name: /^Boat shed/ }));
    await waitFor(() => expect(asked.find((a) => a.path.endsWith("/apply-recipe/"))?.body).toEqual({ recipe: "rec-a", work_version: 4 }));
    await waitFor(() => expect(screen.queryByRole("region", { name: "Where to begin" })).toBeNull());
  });

  it("proposes a chain made for the recording, taken whole or step by step", async () => {
    const proposal = {
      steps: [
        { step: { type: "normalize", enabled: true, params: { target_db: -3 } }, reasons: ["Brings the true peak from −12.0 to −3.0 dBTP."], mends: ["too_low"] },
        { step: { type: "gain", enabled: true, params: { gain_db: 4 } }, reasons: ["It is soft.", "It is far."], mends: [] },
      ],
      notes: ["Clipped in 3 places."],
    };
    const asked = showPage({ "GET /api/recordings/rec-1/": recording({ chain: [] }), "GET /api/recordings/rec-1/proposal/": proposal });
    const made = within(await screen.findByRole("region", { name: "Proposed for this recording" }));
    expect(made.getByText("It is soft. It is far.")).toBeVisible();
    expect(made.getByText("Clipped in 3 places.")).toBeVisible();
    expect(made.getByRole("link", { name: "Taste it beside the recipes" })).toHaveAttribute("href", "/recordings/rec-1/tasting?proposed");
    await userEvent.click(made.getByRole("button", { name: "Add Gain alone" }));
    await waitFor(() => expect(sent(asked, "chain")).toMatchObject({ steps: [{ type: "gain", params: { gain_db: 4 } }] }));
    await userEvent.click(screen.getByRole("button", { name: "Undo" }));
    await userEvent.click(await screen.findByRole("button", { name: "Take all 2 steps" }));
    await waitFor(() => expect(sent(asked, "chain")).toMatchObject({ steps: [{ type: "normalize" }, { type: "gain" }] }));
    expect(screen.queryByRole("region", { name: "Proposed for this recording" })).toBeNull();
  });

  it("takes over what a proposal corrects about itself after its run", async () => {
    const done = someRun({ state: "done", chain: recording().chain });
    const correction = { words: ["Gain: it was too much; 1 dB instead of 2."], steps: [{ type: "gain", enabled: true, params: { gain_db: 1 } }] };
    const asked = showPage({ "GET /api/runs/run-1/correction/": correction }, [done]);
    expect(await screen.findByText(/1 dB instead of 2/)).toBeVisible();
    await userEvent.click(screen.getByRole("button", { name: "Correct the chain" }));
    await waitFor(() => expect(sent(asked, "chain")).toEqual({ steps: correction.steps }));
    await waitFor(() => expect(screen.queryByText(/1 dB instead of 2/)).toBeNull());
  });

  it("shows some of many recipes and tells where the others are", async () => {
    const many = Array.from({ length: 11 }, (_, i) => ({ id: `rec-${i}`, name: `Recipe ${i}`, description: "", version: 1, steps: [] }));
    showPage({ "GET /api/recordings/rec-1/": recording({ chain: [] }), "GET /api/recipes/": many });
    const begin = within(await screen.findByRole("region", { name: "Where to begin" }));
    expect(await begin.findByText("3 more under Apply a recipe.")).toBeVisible();
    expect(begin.getAllByRole("button", { name: /^Recipe/ })).toHaveLength(8);
  });

  it("begins with the step that is pressed", async () => {
    const asked = showPage({ "GET /api/recordings/rec-1/": recording({ chain: [] }) });
    const begin = within(await screen.findByRole("region", { name: "Where to begin" }));
    expect(begin.queryByText("Begin with a recipe")).toBeNull();
    await userEvent.click(begin.getByRole("button", { name: "Normalize" }));
    expect(await screen.findByRole("region", { name: "Normalize settings" })).toBeVisible();
    await waitFor(() => expect(sent(asked, "chain")).toMatchObject({ steps: [{ type: "normalize" }] }));
  });

  it("brings back with the chain where it came from", async () => {
    const recipe = { id: "rec-a", name: "Boat shed", version: 2, steps: [{ type: "normalize", enabled: true, params: { target_db: -6 } }] };
    const applied = recording({ chain: recipe.steps, recipe: "rec-a", recipe_version: 2 });
    const asked = showPage({ "GET /api/recipes/": [recipe], "POST /api/recordings/rec-1/apply-recipe/": applied });
    await userEvent.click(await screen.findByRole("button", { name: "Apply a recipe" }));
    await userEvent.click(screen.getByRole("menuitem", { name: /^Boat shed/ }));
    await waitFor(() => expect(screen.getByRole("button", { name: "Undo" })).toBeEnabled());
    expect(sent(asked, "chain")).toBeUndefined();
    await userEvent.click(screen.getByRole("button", { name: "Undo" }));
    const own = { steps: recording().chain, recipe: null, recipe_version: null };
    await waitFor(() => expect(sent(asked, "chain")).toEqual(own));
    await userEvent.click(screen.getByRole("button", { name: "Redo" }));
    await waitFor(() => expect(sent(asked, "chain")).toEqual({ steps: recipe.steps, recipe: "rec-a", recipe_version: 2 }));
  });

  it("runs only what the server has received, however long that takes", async () => {
    let arrive: (answer: object) => void = () => undefined;
    const asked = showPage({
      "PUT /api/recordings/rec-1/chain/": new Promise<object>((resolve) => { arrive = resolve; }),
      "POST /api/runs/": someRun({ state: "waiting" }),
    });
    await userEvent.click(await screen.findByRole("switch", { name: "Gain on" }));
    await waitFor(() => expect(sent(asked, "chain")).toEqual({ steps: [{ type: "gain", enabled: false, params: { gain_db: 2 } }] }));
    await userEvent.click(screen.getByRole("button", { name: "Run the chain" }));
    await new Promise((resolve) => setTimeout(resolve, 50));
    const runs = () => asked.filter((a) => a.method === "POST" && a.path === "/api/runs/");
    expect(runs()).toEqual([]);
    arrive(recording());
    await waitFor(() => expect(runs()).toHaveLength(1));
  });

  it("sends a chain again that was refused, before it is run", async () => {
    const asked = showPage({ "PUT /api/recordings/rec-1/chain/": [400, { error: { message: "not now" } }], "POST /api/runs/": someRun() });
    await userEvent.click(await screen.findByRole("switch", { name: "Gain on" }));
    await screen.findByText("not now");
    const told = () => asked.filter((a) => a.path.endsWith("/chain/")).length;
    expect(told()).toBe(1);
    await userEvent.click(screen.getByRole("button", { name: "Run the chain" }));
    await waitFor(() => expect(told()).toBe(2));
    expect(asked.some((a) => a.method === "POST" && a.path === "/api/runs/")).toBe(false);
  });

  it("makes mono of one side when a finding proposes it", async () => {
    const asked = showPage();
    await userEvent.click(await screen.findByRole("button", { name: "2 findings" }));
    await userEvent.click(screen.getByRole("button", { name: "Make mono of the left side" }));
    await waitFor(() => expect(sent(asked, "edits")).toEqual({ ...noEdits, mono: "left" }));
  });

  it("takes a cut back", async () => {
    const cuts = [{ start_s: 1, end_s: 2 }, { start_s: 5, end_s: 6 }];
    const asked = showPage({ "GET /api/recordings/rec-1/": recording({ cuts }) });
    expect(await screen.findByTitle(/^Length after edits/)).toHaveTextContent("0:28.0 edited");
    await userEvent.click(screen.getByRole("button", { name: "Take back the cut from 0:01.0 to 0:02.0" }));
    await waitFor(() => expect(sent(asked, "edits")).toEqual({ ...noEdits, cuts: [{ start_s: 5, end_s: 6 }] }));
    await userEvent.click(screen.getByRole("button", { name: "Undo" }));
    await waitFor(() => expect(sent(asked, "edits")).toEqual({ ...noEdits, cuts }));
  });

  it("sets head and tail, and tells what was added", async () => {
    const speech_events = { phrases: [{ start_s: 0.5, end_s: 28, level_dbfs: -30 }], thumps_s: [], noises_s: [] };
    const measures = { ...recording().measures, duration_s: 30, speech_events };
    const asked = showPage({ "GET /api/recordings/rec-1/": recording({ measures }) });
    await userEvent.click(await screen.findByRole("button", { name: "Timing" }));
    expect(screen.getByLabelText("Tail, s")).toHaveValue("2.00");
    const head = screen.getByLabelText("Head, s");
    await userEvent.clear(head);
    await userEvent.type(head, "1");
    const fade = screen.getByLabelText("Fade out, s");
    await userEvent.clear(fade);
    await userEvent.type(fade, "500 ms");
    await userEvent.click(screen.getByRole("button", { name: "Set" }));
    expect(await screen.findByText("+0.50 s room tone")).toBeInTheDocument();
    expect(sent(asked, "ends")).toEqual({ head_s: 1, tail_s: null, fade_in_s: null, fade_out_s: 0.5 });
  });

  it("sets a marker by its key; a result stays current, and undo takes it back", async () => {
    const markers = [{ at_s: 0, name: "Marker 1" }];
    const asked = showPage({ "PUT /api/recordings/rec-1/edits/": recording({ markers }) }, [someRun({ chain: recording().chain })]);
    await screen.findByRole("heading", { name: "Hide guide", level: 1 });
    await userEvent.keyboard("n");
    expect(await screen.findByRole("button", { name: "Marker Marker 1" })).toBeInTheDocument();
    await waitFor(() => expect(sent(asked, "edits")).toEqual({ ...noEdits, markers }));
    expect(screen.queryByText(/since the last run/)).not.toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Undo" }));
    await waitFor(() => expect(sent(asked, "edits")).toEqual(noEdits));
  });

  it("tells its keys on a question mark", async () => {
    showPage();
    await screen.findByRole("heading", { name: "Hide guide", level: 1 });
    await userEvent.keyboard("?");
    expect(await screen.findByRole("dialog", { name: "Keys" })).toHaveTextContent("next clip mark");
  });

  it("knows that a result is of other cuts", async () => {
    const run = someRun({ chain: recording().chain });
    showPage({ "GET /api/recordings/rec-1/": recording({ cuts: [{ start_s: 1, end_s: 2 }] }) }, [run]);
    expect(await screen.findByText(/since the last run: cuts or inserts/)).toBeInTheDocument();
  });

  it("says what is wrong with a recording that cannot be measured", async () => {
    showPage({ "GET /api/recordings/rec-1/": recording({ state: "failed", measures: null, error: "a.wav: ends early" }) });
    expect(await screen.findByRole("status")).toHaveTextContent("It could not be measured: a.wav: ends early");
  });

  it("keeps standing while what a cut left is measured", async () => {
    showPage({ "GET /api/recordings/rec-1/": recording({ state: "running", progress: 0.2 }) });
    expect(await screen.findByRole("heading", { name: "Level path" })).toBeInTheDocument();
  });
});

describe("a second window", () => {
  const theirs = recording({ chain: [{ type: "gain", enabled: true, params: { gain_db: 7 } }], work_version: 5 });
  const refusal = { error: { code: "changed_elsewhere", message: "Hide guide: chain or edits were changed in another window", path: "work_version" } };

  /** The other window was first: this one's change is refused and the newer recording is there to see. */
  async function refusedChange() {
    const asked = showPage({ "PUT /api/recordings/rec-1/chain/": [409, refusal] });
    await screen.findByRole("heading", { name: "Hide guide", level: 1 });
    asked.answers["GET /api/recordings/rec-1/"] = theirs;
    await userEvent.click(await screen.findByRole("button", { name: "2 findings" }));
    await userEvent.click(await screen.findByRole("button", { name: "Add Normalize" }));
    expect(await screen.findByText(/changed in another window: .*Gain: gain 2 dB to 7 dB/)).toBeInTheDocument();
    asked.answers["PUT /api/recordings/rec-1/chain/"] = { ...theirs, work_version: 6 };
    return asked;
  }

  it("is shown, and either chain can be gone on with", async () => {
    const asked = await refusedChange();
    await userEvent.click(screen.getByText("Keep this one"));
    await waitFor(() => expect(lastSent(asked, "chain")).toMatchObject({ work_version: 5, steps: [{ type: "normalize" }, { params: { gain_db: 2 } }] }));
    expect(screen.queryByText(/another window/)).not.toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: /^Undo/, hidden: true }));
    await waitFor(() => expect(sent(asked, "chain")).toMatchObject({ steps: [{ type: "gain", params: { gain_db: 7 } }] }));
  });

  it("is taken over, and what was here is an undo away", async () => {
    const asked = await refusedChange();
    await userEvent.click(screen.getByText("Take the other"));
    expect(screen.queryByText(/another window/)).not.toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: /^Undo/, hidden: true }));
    await waitFor(() => expect(lastSent(asked, "chain")).toMatchObject({ work_version: 5, steps: [{ type: "normalize" }, { params: { gain_db: 2 } }] }));
  });
});
