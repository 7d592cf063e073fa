import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";

import { serve, show } from "../../testing";
import { BatchesPage } from "./BatchesPage";
import type { Batch } from "../../api/types";
import { asBefore, asBody, emptyOrder, goneSince, withOwn } from "./order";
import { madeWith } from "./progress";

const went = vi.fn();
vi.mock("react-router", async (load) => ({ ...(await load<object>()), useNavigate: () => went }));

const recording = (id: string, name: string) => ({ id, name, state: "done", duration_s: 60 });
const planned = (id: string, file_name: string, offset_lu = 0) => ({ recording: id, file_name, tags: { title: "Causeway" }, offset_lu });
const target = { id: "t", name: "Podcast, mono", sentences: ["Loudness −19.5 to −18.5 LUFS"], file: { container: "MP3" }, bounds: {} };
const answers = {
  "GET /api/recordings/": [recording("a", "Causeway"), recording("b", "Saltmarsh"), { ...recording("c", "Still measured"), state: "running" }],
  "GET /api/recipes/": [{ id: "r", name: "Calm", sentences: [], steps: [] }],
  "GET /api/targets/": [target],
  "GET /api/batches/": [],
  "POST /api/batches/preview/": [planned("a", "01 Causeway.mp3"), planned("b", "02 Saltmarsh.mp3", -1.5)],
  "POST /api/batches/": { id: "new" },
};

describe("an order", () => {
  it.each([
    ["what is empty is left out", emptyOrder, { recipe: null, target: null, tags: { title: "{title}" }, own: {} }],
    ["spaces are no tag", { ...emptyOrder, tags: { title: " ", album: "Letters" } }, { tags: { album: "Letters" } }],
    ["a name of its own", withOwn(emptyOrder, "a", { name: " Extra " }), { own: { a: { name: "Extra", tags: {} } } }],
    ["a tag of its own", withOwn(withOwn(emptyOrder, "a", { tag: ["title", "T"] }), "a", { tag: ["comment", "C"] }), { own: { a: { name: "", tags: { title: "T", comment: "C" } } } }],
    ["of a recording that is not chosen nothing goes along", withOwn(emptyOrder, "z", { name: "Z" }), { own: {} }],
  ])("%s", (_, order, expected) => expect(asBody(order, ["a", "b"])).toMatchObject(expected));
});

const earlier = {
  id: "e", name: "Letters", recipe: "r", recipe_name: "Calm", recipe_version: 3, ordered_target: "t", target_name: "Podcast, mono", file: { container: "FLAC" },
  name_pattern: "{number:02} {title}", set_level: "keep", tags: { title: "{title}", album: "Letters" }, cover: "c", created_at: "2026-11-24T10:00:00Z", done: 2, to_go: 1, stopped: 1, paused: false,
} as never as Batch;

describe("an order as an earlier one", () => {
  it("asks for the same", () =>
    expect(asBody(asBefore(earlier), ["a"])).toEqual({
      recordings: ["a"], name: "Letters", recipe: "r", target: "t", file: { container: "FLAC" }, name_pattern: "{number:02} {title}", set_level: "keep",
      tags: { title: "{title}", album: "Letters" }, cover: "c", own: {}, keep_tags: true,
    }));

  it("a name that was the recipe’s is left to it", () => expect(asBefore({ ...earlier, name: "Calm" }).name).toBe(""));

  it.each([
    [{}, []],
    [{ recipe: null }, ["The recipe Calm is not there any more."]],
    [{ ordered_target: null }, ["The target Podcast, mono is not there any more."]],
    [{ recipe: null, recipe_name: "", ordered_target: null, target_name: null }, []],
  ])("tells what is gone: %j", (change, words) => {
    const batch = { ...earlier, ...change };
    expect(goneSince(batch, asBefore(batch))).toEqual(words);
    expect(goneSince(batch, { ...emptyOrder, recipe: "another", target: "another" })).toEqual([]);
  });
});

describe("composing a batch", () => {
  const files = () => screen.getAllByRole("row").slice(1).map((row) => row.querySelectorAll("td")[1]?.textContent);
  const chapters = ["10", "9", "2", "1"].map((n) => ({ ...recording(n, `Chapter ${n}`), created_at: `2031-05-${n.padStart(2, "0")}` }));
  const showChapters = (given: string[]) => {
    const asked = serve({ ...answers, "GET /api/recordings/": chapters, "POST /api/batches/preview/": [] });
    show(<BatchesPage />, { recordings: given });
    return () => (asked.findLast((a) => a.path === "/api/batches/preview/")?.body as { recordings: string[] } | undefined)?.recordings;
  };

  it("numbers files in the order of the list it came from", async () => {
    const sent = showChapters(["1", "2", "9", "10"]);
    await waitFor(() => expect(sent()).toEqual(["1", "2", "9", "10"]));
    expect(files()).toEqual(["Chapter 1", "Chapter 2", "Chapter 9", "Chapter 10"]);
  });

  it("is sorted, 2 before 10, and arranged by keys", async () => {
    const sent = showChapters(["10", "9", "2", "1"]);
    await waitFor(() => expect(sent()).toEqual(["10", "9", "2", "1"]));
    await userEvent.click(screen.getByRole("button", { name: "Sort by name" }));
    await waitFor(() => expect(sent()).toEqual(["1", "2", "9", "10"]));
    screen.getByRole("button", { name: "Move Chapter 9" }).focus();
    await userEvent.keyboard("{ArrowUp}");
    await waitFor(() => expect(sent()).toEqual(["1", "9", "2", "10"]));
    await userEvent.click(screen.getByRole("button", { name: "Sort by arrival" }));
    await waitFor(() => expect(sent()).toEqual(["1", "2", "9", "10"]));
  });

  it("is set up as an earlier one, with tags of their own as wanted", async () => {
    const asked = serve({ ...answers, "GET /api/batches/": [{ ...earlier, ordered_target: null }] });
    show(<BatchesPage />);
    expect(await screen.findByText(/^2 of 4 done, 1 to go/)).toHaveTextContent("2 of 4 done, 1 to go, 1 stopped");
    await userEvent.click(await screen.findByRole("checkbox", { name: "Saltmarsh" }));
    await userEvent.type(await screen.findByLabelText("Comment tag of Saltmarsh"), "windy");
    await userEvent.click(await screen.findByRole("combobox", { name: "Set up as" }));
    await userEvent.click(screen.getByRole("option", { name: /^\w+.*: Letters, Calm, version 3/ }));
    expect(screen.getByLabelText("File names")).toHaveValue("{number:02} {title}");
    expect(screen.getByRole("alert")).toHaveTextContent("The target Podcast, mono is not there any more.");
    await userEvent.click(screen.getByRole("combobox", { name: "Tags of their own" }));
    await userEvent.click(screen.getByRole("option", { name: "track" }));
    await userEvent.keyboard("{Escape}");
    await userEvent.type(await screen.findByLabelText("Track tag of Saltmarsh"), "7");
    await userEvent.click(screen.getByRole("button", { name: "Start 1 recording" }));
    await waitFor(() => expect(went).toHaveBeenCalledWith("/batches/new"));
    const sent = asked.findLast((a) => a.method === "POST" && a.path === "/api/batches/")?.body;
    expect(sent).toMatchObject({ recipe: "r", target: null, set_level: "keep", tags: { album: "Letters" }, cover: "c", own: { b: { tags: { comment: "windy", track: "7" } } } });
    went.mockClear();
  });

  it("previews names, asks for what was chosen, and leads to the batch", async () => {
    const asked = serve(answers);
    show(<BatchesPage />);
    // Nothing is there to be chosen yet.
    expect(await screen.findByRole("checkbox", { name: "All recordings" })).toBeDisabled();
    await screen.findByText("Causeway");
    await userEvent.click(screen.getByRole("checkbox", { name: "All recordings" }));
    expect(screen.queryByText("Still measured")).toBeNull();
    expect(await screen.findByText("01 Causeway.mp3")).toBeInTheDocument();
    expect(screen.getByText("−1.5 LU")).toBeInTheDocument();
    // What is too long for its field is reported whole under the pointer.
    expect(screen.getByLabelText("Title tag of Causeway")).toHaveAttribute("title", "Causeway");
    for (const [field, option] of [["Recipe", "Calm"], ["Target", "Podcast, mono"]] as const) {
      await userEvent.click(screen.getByRole("combobox", { name: field }));
      await userEvent.click(screen.getByRole("option", { name: option }));
    }
    expect(screen.getByText("Loudness −19.5 to −18.5 LUFS")).toBeInTheDocument();
    expect(screen.getByRole("combobox", { name: "Bitrate" })).toBeInTheDocument();
    await userEvent.click(screen.getByRole("combobox", { name: "Loudness across files" }));
    await userEvent.click(screen.getByRole("option", { name: "keep their differences" }));
    await userEvent.click(screen.getByRole("button", { name: "Tags for all files (1)" }));
    await userEvent.type(screen.getByLabelText("album"), "Letters");
    await userEvent.type(screen.getByLabelText("Comment tag of Saltmarsh"), "windy");
    await userEvent.click(screen.getByRole("button", { name: "Start 2 recordings" }));
    await waitFor(() => expect(went).toHaveBeenCalledWith("/batches/new"));
    const sent = asked.find((a) => a.method === "POST" && a.path === "/api/batches/")?.body;
    expect(sent).toMatchObject({
      recordings: ["a", "b"], recipe: "r", target: "t", set_level: "keep", tags: { title: "{title}", album: "Letters" }, own: { b: { tags: { comment: "windy" } } },
    });
  });

  it("a pattern the server refuses is reported and cannot be started", async () => {
    const fault = { error: { code: "bad_setting", message: "name_pattern: knows the fields title, show", path: "name_pattern" } };
    serve({ ...answers, "POST /api/batches/preview/": [400, fault] });
    show(<BatchesPage />);
    await userEvent.click(await screen.findByRole("checkbox", { name: "Causeway" }));
    expect(await screen.findByRole("alert")).toHaveTextContent("knows the fields");
    expect(screen.getByRole("button", { name: "Start 1 recording" })).toBeDisabled();
  });

  it("without a recording it says what to do", async () => {
    serve({ ...answers, "GET /api/recordings/": [] });
    show(<BatchesPage />);
    expect(await screen.findByText(/No recording is ready/)).toBeInTheDocument();
  });

  it("a cover is kept, and what is no picture is reported", async () => {
    const fault = { error: { code: "bad_input", message: "notes.txt: a cover must be a JPEG or PNG picture", path: "cover" } };
    serve({ ...answers, "POST /api/covers/": [400, fault] });
    vi.stubGlobal("fetch", ((real) => async (input: Request | string, init?: RequestInit) =>
      typeof input === "string" && input.startsWith("/api/covers/") ? new Response(JSON.stringify(fault), { status: 400 }) : real(input, init))(fetch));
    show(<BatchesPage />);
    await userEvent.click(await screen.findByRole("button", { name: /^Tags for all files/ }));
    await userEvent.upload(screen.getByTestId("cover-picker"), new File(["x"], "notes.png", { type: "image/png" }));
    expect(await screen.findByText(/must be a JPEG or PNG/)).toBeInTheDocument();
  });
});

describe("what a batch was made with", () => {
  const batch = { recipe_name: "Calm", recipe_version: 3, target_name: null, set_level: "alike" } as never as Parameters<typeof madeWith>[0];
  it.each([
    [{}, "Calm, version 3"],
    [{ target_name: "Podcast, mono" }, "Calm, version 3, for Podcast, mono"],
    [{ recipe_name: "", target_name: "Podcast, mono", set_level: "keep" }, "Each recording’s own chain, for Podcast, mono, differences kept"],
  ])("%j", (change, words) => expect(madeWith({ ...batch, ...change })).toBe(words));
});

