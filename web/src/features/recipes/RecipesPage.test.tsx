import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, test } from "vitest";

import { serve, show } from "../../testing";
import { RecipesPage } from "./RecipesPage";

const calm = {
  id: "r1", name: "Calm", description: "For guides.", steps: [{ type: "gain" }], version: 2,
  sentences: ["Turns everything up by 2 dB."],
};
const list = { "GET /api/recipes/": [calm] };

describe("recipes", () => {
  test("each says what it does", async () => {
    serve(list);
    show(<RecipesPage />);
    expect(await screen.findByRole("heading", { name: "Calm" })).toBeInTheDocument();
    expect(screen.getByText("Turns everything up by 2 dB.")).toBeInTheDocument();
    expect(screen.getByText("version 2, 1 step")).toBeInTheDocument();
    expect(screen.getByRole("link", { name: "Export" })).toHaveAttribute("href", "/api/recipes/r1/document/");
  });

  test("an empty library says what to do", async () => {
    serve({ "GET /api/recipes/": [] });
    show(<RecipesPage />);
    expect(await screen.findByText(/Build a chain on a recording/)).toBeInTheDocument();
  });

  test("renaming shows the server's objection at the field", async () => {
    const taken = { error: { code: "bad_setting", message: "name: is taken by another recipe", path: "name" } };
    const asked = serve({ ...list, "PATCH /api/recipes/r1/": [400, taken] });
    show(<RecipesPage />);
    await userEvent.click(await screen.findByRole("button", { name: "Rename" }));
    const field = screen.getByLabelText("Name");
    await userEvent.clear(field);
    await userEvent.type(field, "Kitchen{Enter}");
    expect(await screen.findByText("name: is taken by another recipe")).toBeInTheDocument();
    expect(asked.at(-1)).toEqual({ method: "PATCH", path: "/api/recipes/r1/", body: { name: "Kitchen" } });
  });

  test("deleting asks once", async () => {
    const asked = serve({ ...list, "DELETE /api/recipes/r1/": [204, null] });
    show(<RecipesPage />);
    await userEvent.click(await screen.findByRole("button", { name: "Delete" }));
    await userEvent.click(screen.getByRole("button", { name: "Keep" }));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    await userEvent.click(screen.getByRole("button", { name: "Delete" }));
    const dialog = await screen.findByRole("dialog");
    await userEvent.click([...dialog.querySelectorAll("button")].at(-1) ?? dialog);
    await waitFor(() => expect(asked.filter((a) => a.method === "DELETE")).toHaveLength(1));
  });

  test("a document that is no recipe is reported", async () => {
    const fault = { error: { code: "bad_setting", message: 'format: must be "zesty-recipe", got 1', path: "format" } };
    serve({ ...list, "POST /api/recipes/import/": [400, fault] });
    show(<RecipesPage />);
    await screen.findByRole("heading", { name: "Calm" });
    await userEvent.upload(screen.getByTestId("recipe-picker"), new File(["{}"], "x.json"));
    expect(await screen.findByRole("alert")).toHaveTextContent('must be "zesty-recipe"');
  });

  test("are found by any of their words, in groups", async () => {
    const bright = { ...calm, id: "r2", name: "Bright", group: "Letters", sentences: ["Adds air."] };
    serve({ "GET /api/recipes/": [calm, bright] });
    show(<RecipesPage />);
    expect(await screen.findByRole("heading", { name: "Letters" })).toBeInTheDocument();
    await userEvent.type(screen.getByLabelText("Search"), "AIR letters");
    expect(screen.queryByRole("heading", { name: "Calm" })).toBeNull();
    expect(screen.getByRole("heading", { name: "Bright" })).toBeInTheDocument();
    await userEvent.type(screen.getByLabelText("Search"), " bass");
    expect(screen.getByText("No recipe has all of these words.")).toBeInTheDocument();
  });

  test("show what changed from version to version, go back, copy and change group", async () => {
    const gain = (gain_db: number) => [{ type: "gain", enabled: true, params: { gain_db } }];
    const version = (n: number, db: number, runs = 0) => ({ version: n, steps: gain(db), created_at: "2026-11-24T10:00:00Z", runs });
    const setting = { name: "gain_db", kind: "number", label: "Gain", unit: "dB" };
    const asked = serve({
      ...list, "GET /api/step-types/": [{ type: "gain", label: "Gain", settings: [setting] }],
      "GET /api/recipes/r1/use/": { versions: [version(2, 3, 4), version(1, 2)], recordings: [{ id: "a", name: "Causeway" }], batches: [] },
      "POST /api/recipes/r1/go-back/": calm, "POST /api/recipes/r1/copy/": calm, "PATCH /api/recipes/r1/": calm,
    });
    show(<RecipesPage />);
    await userEvent.click(await screen.findByRole("button", { name: "Version history" }));
    expect(await screen.findByText("Gain: gain 2 dB to 3 dB")).toBeInTheDocument();
    expect(screen.getByText(/4 runs/)).toBeInTheDocument();
    expect(screen.getByRole("link", { name: "Causeway" })).toHaveAttribute("href", "/recordings/a");
    await userEvent.click(screen.getByRole("button", { name: "Go back to version 1" }));
    await userEvent.click(screen.getByRole("button", { name: "Copy" }));
    await userEvent.click(screen.getByRole("button", { name: "no group" }));
    await userEvent.type(screen.getByLabelText("Group"), "Guides{Enter}");
    const bodies = asked.filter((a) => a.method !== "GET").map((a) => a.body);
    expect(bodies).toContainEqual({ version: 1 });
    expect(bodies).toContainEqual({ group: "Guides" });
  });
});
