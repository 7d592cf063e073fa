import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";

import type { Recording } from "../../api/types";
import { serve, show } from "../../testing";
import { HouseVoiceButton } from "./HouseVoiceButton";
import { HouseVoiceDialog } from "./HouseVoiceDialog";

const recording = { id: "rec-1", name: "Hide guide", group: "Letters", finished_at: null } as Recording;
const house = (id: string, name: string) => ({ id, name, made_of: ["Episode 1", "Episode 2"], figures: {}, created_at: "" });
const apart = (tone_db: number) => ({ tone_db, bands_db: Array.from({ length: 21 }, (_, i) => i - 10), voice_level_db: -3.2, spread_db: null, clearance_db: 4 });
const step = { type: "house_voice", enabled: true, params: { strength_percent: 100, tone: [] } };

function button(resultId: string | null = null, houses = [house("h1", "Hide guides"), house("h2", "Letters")]) {
  const onAdd = vi.fn();
  const asked = serve({
    "GET /api/house-voices/": houses,
    "GET /api/house-voices/h1/distance/": { recorded: apart(1), finished: null, step },
    "GET /api/house-voices/h2/distance/": { recorded: apart(4.2), finished: apart(0.6), step },
    "POST /api/house-voices/": [201, house("h3", "Letters")],
    "DELETE /api/house-voices/h2/": [204, null],
  });
  show(<HouseVoiceButton recording={recording} resultId={resultId} onAdd={onAdd} />);
  return { onAdd, asked };
}

describe("house voice on the workbench", () => {
  it.each([
    [null, "House voice: 4.2 dB"],
    ["run-1", "House voice: 0.6 dB"],
  ])("shows how far a recording is from the voice of its group", async (resultId, words) => {
    button(resultId);
    expect(await screen.findByRole("button", { name: words })).toBeVisible();
  });

  it("names the figures and closes the gap by one press", async () => {
    const { onAdd } = button();
    await userEvent.click(await screen.findByRole("button", { name: "House voice: 4.2 dB" }));
    expect(screen.getByText("−3.2 dB")).toBeVisible();
    expect(screen.getByText("+4.0 dB")).toBeVisible();
    expect(screen.getByText("not known")).toBeVisible();
    expect(screen.getByRole("img", { name: /at most −10.0 dB apart/ })).toBeVisible();
    await userEvent.click(screen.getByRole("button", { name: "Close the gap" }));
    expect(onAdd).toHaveBeenCalledWith(step);
  });

  it("keeps this voice, and deletes one", async () => {
    const { asked } = button();
    await userEvent.click(await screen.findByRole("button", { name: "House voice: 4.2 dB" }));
    await userEvent.click(screen.getByRole("button", { name: "Keep this voice" }));
    expect(await screen.findByText("Kept as Letters.")).toBeVisible();
    await userEvent.click(screen.getByRole("button", { name: "Delete Letters" }));
    expect(asked.filter(({ method }) => method !== "GET").map(({ method, path, body }) => [method, path, body])).toEqual([
      ["POST", "/api/house-voices/", { name: "Letters", recordings: ["rec-1"] }],
      ["DELETE", "/api/house-voices/h2/", null],
    ]);
  });

  it("takes no room where there is none", async () => {
    const { asked } = button(null, []);
    await waitFor(() => expect(asked).toHaveLength(1));
    expect(screen.queryByRole("button")).toBeNull();
  });
});

it("keeps the voice of several recordings", async () => {
  const asked = serve({ "POST /api/house-voices/": [400, { error: { code: "bad_input", message: "Letters: there is a house voice of this name already", path: "name" } }] });
  show(<HouseVoiceDialog recordings={[recording, { ...recording, id: "rec-2" }]} onClose={vi.fn()} />);
  await userEvent.click(screen.getByRole("button", { name: "Keep their voice" }));
  expect(await screen.findByRole("alert")).toHaveTextContent("of this name already");
  expect(asked[0]?.body).toEqual({ name: "Letters", recordings: ["rec-1", "rec-2"] });
});
