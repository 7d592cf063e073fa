import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";

import { serve, show, type Asked } from "../../testing";
import { SettingsPage } from "./SettingsPage";

const recipe = { id: "r", name: "Boat shed narration", steps: [], description: "", group: "", version: 1 };
const space = (earlier: number, away: number) => ({
  free_bytes: 81.2e9,
  kinds: [
    { kind: "recordings", count: 6, size_bytes: 31.4e6 }, { kind: "decoded", count: earlier && 1, size_bytes: 7e6 }, { kind: "results", count: 2, size_bytes: 20e6 },
    { kind: "earlier_results", count: earlier, size_bytes: earlier * 1.04e9 }, { kind: "deliveries", count: 0, size_bytes: 0 },
    { kind: "beds", count: 2, size_bytes: 2.3e6 }, { kind: "put_away", count: away, size_bytes: away * 5e6 }, { kind: "unfinished", count: 0, size_bytes: 0 },
  ],
});
const away = { id: "w", name: "Old opening", label: "presenter", deleted_at: "2031-05-01T08:00:00Z", goes_at: "2031-05-31T08:00:00Z", size_bytes: 5e6 };

function showPage(changes: Record<string, unknown> = {}): Asked[] {
  const asked = serve({
    "GET /api/preferences/": { recipe: null, run_at_once: false, target: null }, "GET /api/recipes/": [recipe], "GET /api/targets/": [],
    "GET /api/space/": space(3, 1), "GET /api/put-away/": [away],
    "GET /api/watched-folders/": [], "GET /api/about/": { version: "0.1.0", engine_version: "12", cores: 2, largest_file_bytes: 9e9 }, ...changes,
  });
  show(<SettingsPage />);
  return asked;
}
const part = (name: string) => within(screen.getByRole("region", { name }));

beforeEach(() => localStorage.clear());

describe("settings", () => {
  it("what new recordings begin with is chosen, and the server's objection is shown", async () => {
    const asked = showPage({ "PATCH /api/preferences/": { recipe: "r", run_at_once: false, target: null } });
    expect(await screen.findByRole("switch", { name: /^Run the chain/ })).toBeDisabled();
    await userEvent.click(await screen.findByRole("combobox", { name: "Recipe" }));
    await userEvent.click(screen.getByRole("option", { name: "Boat shed narration" }));
    await waitFor(() => expect(screen.getByRole("combobox", { name: "Recipe" })).toHaveTextContent("Boat shed narration"));
    expect(asked.find((a) => a.method === "PATCH")?.body).toEqual({ recipe: "r" });
    await userEvent.click(screen.getByRole("switch", { name: /^Run the chain/ }));
    expect(asked.filter((a) => a.method === "PATCH").at(-1)?.body).toEqual({ run_at_once: true });
    await userEvent.click(screen.getByRole("combobox", { name: "Recipe" }));
    await userEvent.click(screen.getByRole("option", { name: "none: an empty chain" }));
    expect(asked.filter((a) => a.method === "PATCH").at(-1)?.body).toEqual({ recipe: null });
  });

  it("an objection to a preference is reported, and what is set stays shown", async () => {
    showPage({ "PATCH /api/preferences/": [400, { error: { code: "bad_input", message: "recipe: is not there any more", path: "recipe" } }] });
    await userEvent.click(await screen.findByRole("combobox", { name: "Recipe" }));
    await userEvent.click(screen.getByRole("option", { name: "Boat shed narration" }));
    expect(await screen.findByRole("alert")).toHaveTextContent("is not there any more");
    expect(screen.getByRole("combobox", { name: "Recipe" })).toHaveTextContent("none: an empty chain");
  });

  it("what compressed recordings were decoded to can go at once: it is made again", async () => {
    const asked = showPage({ "DELETE /api/space/decoded/": space(0, 1) });
    await userEvent.click(await screen.findByRole("button", { name: "Remove decoded files" }));
    expect(asked.filter((a) => a.method === "DELETE").map((a) => a.path)).toEqual(["/api/space/decoded/"]);
    await waitFor(() => expect(screen.queryByRole("button", { name: "Remove decoded files" })).not.toBeInTheDocument());
  });

  it("the appearance is kept in the browser", async () => {
    showPage();
    expect(screen.getByRole("button", { name: "As the system" })).toHaveAttribute("aria-pressed", "true");
    await userEvent.click(screen.getByRole("button", { name: "Dark" }));
    expect(screen.getByRole("button", { name: "Dark" })).toHaveAttribute("aria-pressed", "true");
    expect(localStorage.getItem("zesty-appearance")).toBe("dark");
  });

  it("space is reported by kind, and earlier results go after one question", async () => {
    const asked = showPage({ "DELETE /api/space/earlier-results/": space(0, 1) });
    const table = await screen.findByRole("table", { name: "Space taken" });
    expect(within(table).getAllByRole("row").map((row) => row.textContent)).toEqual([
      expect.stringMatching(/^Recordings .*631\.4 MB$/), expect.stringMatching(/^Decoded files .*17\.0 MB$/), expect.stringMatching(/^Results .*220\.0 MB$/),
      expect.stringMatching(/^Earlier results .*33\.1 GB$/), expect.stringMatching(/^Beds .*22\.3 MB$/), expect.stringMatching(/^Deleted recordings .*15\.0 MB$/),
    ]);
    expect(part("Space on the disk").getByText(/81\.2 GB free/)).toHaveTextContent("3.2 GB taken");
    expect(screen.getByText(/free, in the data folder/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Remove earlier results" }));
    expect(screen.getByRole("dialog")).toHaveTextContent("This frees 3.1 GB and cannot be taken back");
    await userEvent.click(screen.getByRole("button", { name: "Keep" }));
    expect(asked.some((a) => a.method === "DELETE")).toBe(false);
    await userEvent.click(await screen.findByRole("button", { name: "Remove earlier results" }));
    await userEvent.click(screen.getByRole("button", { name: "Remove for good" }));
    expect(await screen.findByText("There are none.")).toBeInTheDocument();
    expect(screen.getByRole("button", { name: "Remove earlier results", hidden: true })).toBeDisabled();
  });

  it("deleted recordings are taken back, or removed at once", async () => {
    const asked = showPage({ "POST /api/recordings/w/take-back/": {}, "DELETE /api/space/put-away/": space(3, 0) });
    await userEvent.click(await screen.findByRole("button", { name: "Take back Old opening" }));
    expect(asked.some((a) => a.path === "/api/recordings/w/take-back/")).toBe(true);
    await userEvent.click(screen.getByRole("button", { name: "Remove all of them now" }));
    await userEvent.click(screen.getByRole("button", { name: "Remove for good" }));
    await waitFor(() => expect(asked.some((a) => a.method === "DELETE" && a.path === "/api/space/put-away/")).toBe(true));
  });

  it("nothing deleted and a server that does not answer are both said", async () => {
    showPage({ "GET /api/put-away/": [], "GET /api/space/": [500, { error: { code: "fault", message: "The server had a fault.", path: null } }] });
    expect(await part("Deleted recordings").findByText("None.")).toBeInTheDocument();
    expect(await part("Space on the disk").findByRole("alert")).toHaveTextContent("The server had a fault.");
    expect(await part("This installation").findByText(/engine version 12.*2 processor cores.*9\.0 GB/)).toBeInTheDocument();
  });
});
