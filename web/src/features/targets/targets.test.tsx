import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it, vi } from "vitest";

import type { FileWish, Rule } from "../../api/types";
import { serve, show } from "../../testing";
import { FileWishFields } from "./FileWishFields";
import { RuleList } from "./RuleList";
import { boundsOf } from "./TargetForm";
import { TargetsPage } from "./TargetsPage";

const measures = ["integrated_lufs", "true_peak_dbtp"].map((name) => ({ name, label: name === "integrated_lufs" ? "Loudness" : "True peak", unit: "dB", low: -60, high: 0, help: "how" }));
const podcast = {
  id: "t", name: "Podcast", description: "For listeners.", bounds: { integrated_lufs: { low: -17, high: -15 } }, file: { container: "MP3" },
  sentences: ["Loudness −17.0 to −15.0 LUFS", "MP3"], created_at: "",
};
const library = {
  "GET /api/beds/": [{ id: "gulls", name: "Gulls", duration_s: 6, created_at: "2026-11-24T10:00:00Z" }], "GET /api/targets/": [podcast], "GET /api/bounded-measures/": measures };

describe("typed bounds", () => {
  it.each([
    [{}, {}],
    [{ integrated_lufs: { low: "", high: " " } }, {}],
    [{ integrated_lufs: { low: "−17", high: "-15,5" } }, { integrated_lufs: { low: -17, high: -15.5 } }],
    [{ head_s: { low: "500 ms", high: "1,5 s" } }, { head_s: { low: 0.5, high: 1.5 } }],
    [{ integrated_lufs: { low: "-17 dB", high: "-15 s" } }, { integrated_lufs: { low: -17, high: "-15 s" } }],
    // What is no number goes to the server as it is, to be refused at its path.
    [{ head_s: { low: "soon" } }, { head_s: { low: "soon" } }],
  ])("%j", (typed, expected) => expect(boundsOf(typed, [...measures, { ...measures[0], name: "head_s", label: "Head", unit: "s", low: 0, high: 10, help: "" }])).toEqual(expected));
});

describe("targets", () => {
  it("say their rules; one is changed, and the server's objection is shown", async () => {
    const fault = { error: { code: "bad_setting", message: "bounds.integrated_lufs.low: must not be above high, -20", path: "bounds.integrated_lufs.low" } };
    const asked = serve({ ...library, "PUT /api/targets/t/": [400, fault] });
    show(<TargetsPage />);
    expect(await screen.findByText("Loudness −17.0 to −15.0 LUFS")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Change Podcast" }));
    const high = screen.getByLabelText("Loudness at most");
    expect(high).toHaveValue("-15");
    await userEvent.clear(high);
    await userEvent.type(high, "-20");
    await userEvent.click(screen.getByRole("button", { name: "Keep target" }));
    expect(await screen.findByRole("alert")).toHaveTextContent("must not be above high");
    expect(asked.at(-1)?.body).toMatchObject({ name: "Podcast", bounds: { integrated_lufs: { low: -17, high: -20 } }, file: { container: "MP3" } });
    await userEvent.click(screen.getByRole("button", { name: "Cancel" }));
    expect(screen.getByRole("button", { name: "Change Podcast" })).toBeInTheDocument();
  });

  it("keep an intro with its overlap and level, and lose it when none is chosen", async () => {
    const withIntro = { ...podcast, intro: { bed: "gulls", overlap_s: 2, level_lu: -3 } };
    const asked = serve({ ...library, "PUT /api/targets/t/": withIntro });
    show(<TargetsPage />);
    const choose = async (name: string) => {
      await userEvent.click(await screen.findByRole("button", { name: "Change Podcast" }));
      await userEvent.click(screen.getByRole("combobox", { name: "Intro" }));
      await userEvent.click(screen.getByRole("option", { name }));
    };
    await choose("Gulls, 0:06");
    const overlap = screen.getByLabelText("Overlap, s");
    await userEvent.clear(overlap);
    await userEvent.type(overlap, "500 ms");
    await userEvent.click(screen.getByRole("button", { name: "Keep target" }));
    await screen.findByRole("button", { name: "Change Podcast" });
    const sent = () => asked.filter((a) => a.method === "PUT").at(-1)?.body;
    expect(sent()).toMatchObject({ intro: { bed: "gulls", overlap_s: 0.5, level_lu: -3 }, outro: null });
    await choose("none");
    await userEvent.click(screen.getByRole("button", { name: "Keep target" }));
    await screen.findByRole("button", { name: "Change Podcast" });
    expect(sent()).toMatchObject({ intro: null });
  });

  it("a new one is made", async () => {
    const asked = serve({ ...library, "POST /api/targets/": [201, podcast] });
    show(<TargetsPage />);
    await userEvent.click(await screen.findByRole("button", { name: "New target" }));
    expect(screen.getByRole("button", { name: "Keep target" })).toBeDisabled();
    await userEvent.type(screen.getByLabelText(/^Name/), "Ours");
    await userEvent.type(screen.getByLabelText("True peak at most"), "-2");
    await userEvent.click(screen.getByRole("button", { name: "Keep target" }));
    expect(await screen.findByRole("button", { name: "New target" })).toBeInTheDocument();
    expect(asked.find((a) => a.method === "POST")?.body).toMatchObject({ name: "Ours", bounds: { true_peak_dbtp: { high: -2 } } });
  });

  it("deleting asks once; an empty library says what to do", async () => {
    const asked = serve({ ...library, "DELETE /api/targets/t/": [204, null] });
    const { unmount } = show(<TargetsPage />);
    await userEvent.click(await screen.findByRole("button", { name: "Delete Podcast" }));
    await userEvent.click(within(await screen.findByRole("dialog")).getByRole("button", { name: "Delete" }));
    expect(asked.some((a) => a.method === "DELETE")).toBe(true);
    unmount();
    serve({ ...library, "GET /api/targets/": [] });
    show(<TargetsPage />);
    expect(await screen.findByText(/No target yet/)).toBeInTheDocument();
  });
});

describe("rules", () => {
  it.each([
    [true, "met"],
    [false, "not met"],
    [null, "not known"],
  ])("are reported without colour: %s", (is_met, words) => {
    const rule: Rule = { name: "x", label: "Loudness", wanted: "at most −1.0", got: "−0.5", is_met, off_by: null };
    show(<RuleList rules={[rule]} />);
    expect(screen.getByRole("table", { name: "Rules" })).toHaveTextContent(`−0.5, ${words}`);
  });
});

describe("kind of file", () => {
  function Held({ usual, onChange }: { usual?: string; onChange: (value: FileWish) => void }) {
    const [value, setValue] = useState<FileWish>({});
    return <FileWishFields value={value} usual={usual} free="free" onChange={(next) => { setValue(next); onChange(next); }} />;
  }
  it("depth belongs to exact formats, bitrate to the others", async () => {
    const told = vi.fn();
    show(<Held onChange={told} />);
    const choose = async (field: string, option: string) => {
      await userEvent.click(screen.getByRole("combobox", { name: field }));
      await userEvent.click(screen.getByRole("option", { name: option }));
    };
    await choose("Depth", "16 bit");
    await choose("Format", "MP3");
    expect(told).toHaveBeenLastCalledWith({ container: "MP3" });
    await choose("Bitrate", "128 kbit/s");
    await choose("Format", "FLAC");
    expect(told).toHaveBeenLastCalledWith({ container: "FLAC" });
  });
  it("follows what a target says where nothing is chosen", () => {
    show(<Held usual="MP3" onChange={vi.fn()} />);
    expect(screen.getByRole("combobox", { name: "Bitrate" })).toBeInTheDocument();
  });
});
