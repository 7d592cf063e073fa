import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";

import type { WatchedFolder } from "../../api/types";
import { serve, show } from "../../testing";
import { WatchedFolders } from "./WatchedFolders";

const folder = (more: Partial<WatchedFolder> = {}): WatchedFolder => ({
  id: "w", folder: "/srv/sound/in", out_folder: "/srv/sound/in/delivered", recipe: "calm", target: "pod", batch: "b", paused: false, problem: "", error: "", delivered: 1,
  files: [
    { id: 2, name: "tide.wav", state: "delivered", recording: "r", delivered_as: "tide.mp3", message: "misses the target: Loudness", received_at: "2026-11-24T10:00:00Z" },
    { id: 1, name: "broken.wav", state: "failed", recording: null, delivered_as: "", message: "broken.wav: is no sound file", received_at: "2026-11-24T10:00:00Z" },
  ],
  ...more,
});
const library = {
  "GET /api/recipes/": [{ id: "calm", name: "Calm", steps: [] }, { id: "loud", name: "Loud", steps: [] }], "GET /api/targets/": [{ id: "pod", name: "Podcast", bounds: {}, file: {}, sentences: [] }],
  "GET /api/folders/": { folders: ["/srv/sound"] },
};

describe("watched folders", () => {
  it("say what came in and what became of it; one is paused, and forgotten", async () => {
    const asked = serve({ ...library, "GET /api/watched-folders/": [folder()], "PATCH /api/watched-folders/w/": folder({ paused: true }), "DELETE /api/watched-folders/w/": [204, null] });
    show(<WatchedFolders />);
    expect(await screen.findByText("Target Podcast. Output in /srv/sound/in/delivered. 1 delivered.")).toBeInTheDocument();
    expect(screen.getByText("delivered as tide.mp3; misses the target: Loudness")).toBeInTheDocument();
    expect(screen.getByText("broken.wav: is no sound file")).toBeInTheDocument();
    expect(screen.getByRole("link", { name: "tide.wav" })).toHaveAttribute("href", "/recordings/r");
    await userEvent.click(await screen.findByRole("combobox", { name: "Recipe" }));
    await userEvent.click(screen.getByRole("option", { name: "Loud" }));
    await userEvent.click(screen.getByRole("button", { name: "Pause" }));
    await userEvent.click(screen.getByRole("button", { name: "Stop watching" }));
    expect(asked.filter((a) => a.method !== "GET").map((a) => [a.method, a.body])).toEqual([["PATCH", { recipe: "loud" }], ["PATCH", { paused: true }], ["DELETE", null]]);
  });

  it.each([
    [folder({ problem: "/srv/sound/in: No such file or directory" }), "No such file"],
    [folder({ recipe: null }), "Its recipe was deleted"],
  ])("say their problem", async (one, words) => {
    serve({ ...library, "GET /api/watched-folders/": [one] });
    show(<WatchedFolders />);
    expect(await screen.findByRole("alert")).toHaveTextContent(words);
  });

  it("a new one is chosen folder by folder; the server's objection is shown", async () => {
    const fault = { error: { code: "bad_input", message: "folder: /srv/sound is watched already", path: "folder" } };
    const asked = serve({ ...library, "GET /api/watched-folders/": [], "POST /api/watched-folders/": [400, fault] });
    show(<WatchedFolders />);
    await userEvent.click(await screen.findByRole("button", { name: "Watch a folder" }));
    await userEvent.type(screen.getByRole("combobox", { name: "Folder" }), "/srv");
    await userEvent.click(await screen.findByRole("option", { name: "/srv/sound" }));
    expect(screen.getByRole("button", { name: "Watch" })).toBeDisabled();
    await userEvent.click(screen.getByRole("combobox", { name: "Recipe" }));
    await userEvent.click(screen.getByRole("option", { name: "Calm" }));
    await userEvent.click(screen.getByRole("button", { name: "Watch" }));
    expect(await screen.findByRole("alert")).toHaveTextContent("is watched already");
    expect(asked.find((a) => a.method === "POST")?.body).toEqual({ folder: "/srv/sound", out_folder: "", recipe: "calm", target: null });
  });
});
