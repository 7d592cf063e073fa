import { ThemeProvider } from "@mui/material/styles";
import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, test, vi } from "vitest";

import type { Setting } from "../../api/types";
import { makeTheme } from "../../app/theme";
import { readTyped, SettingField, sliderScale } from "./SettingField";

const threshold: Setting = {
  name: "threshold_db", kind: "number", label: "Threshold", help: "Above this it turns down.", unit: "dB",
  low: -80, high: 30, usual: [-20, -12], increment: 0.5, scale: "linear", choices: [], words: {}, unit_by: null, word: null,
  most: null, matters_for: [], record: null, default: -18,
};
const attack: Setting = { ...threshold, label: "Attack", low: 0.1, high: 500, usual: [3, 20], scale: "log" };
const release: Setting = { ...threshold, label: "Release", unit: "ms", low: 5, high: 5000 };
const mix: Setting = { ...threshold, label: "Mix", unit: "", low: 0, high: 1 };
const makeup: Setting = { ...threshold, label: "Make-up", word: "auto" };

function show(setting: Setting, value: number | string | boolean) {
  const onSet = vi.fn();
  render(
    <ThemeProvider theme={makeTheme("light")}>
      <SettingField setting={setting} value={value} onSet={onSet} />
    </ThemeProvider>,
  );
  return onSet;
}

describe("setting field", () => {
  test("a typed number with its unit is taken on Enter", async () => {
    const onSet = show(threshold, -18);
    const field = screen.getByLabelText("Threshold");
    await userEvent.clear(field);
    await userEvent.type(field, "−24,5 dB{Enter}");
    expect(onSet).toHaveBeenCalledWith(-24.5);
  });

  test("a share of one is shown and typed in percent", async () => {
    const onSet = show(mix, 1);
    const field = screen.getByLabelText("Mix");
    expect(field).toHaveValue("100");
    await userEvent.clear(field);
    await userEvent.type(field, "35{Enter}");
    expect(onSet).toHaveBeenCalledWith(0.35);
  });

  test("what is not allowed stays in the field with what is", async () => {
    const onSet = show(threshold, -18);
    const field = screen.getByLabelText("Threshold");
    await userEvent.clear(field);
    await userEvent.type(field, "99{Enter}");
    expect(await screen.findByRole("alert")).toHaveTextContent("Threshold must be from −80 to 30 dB");
    expect(field).toHaveValue("99");
    expect(onSet).not.toHaveBeenCalled();
  });

  test("arrow keys on the slider move by the setting's increment", async () => {
    const onSet = show(threshold, -18);
    screen.getByRole("slider").focus();
    await userEvent.keyboard("{ArrowRight}");
    expect(onSet).toHaveBeenCalledWith(-17.5);
  });

  test.each([
    [makeup, "nowrap"],
    [{ ...threshold, label: "Open early" }, "normal"],
  ])("a single word is not broken at its hyphen", (setting, whiteSpace) => {
    show(setting, 0);
    expect(screen.getByText(setting.label)).toHaveStyle({ whiteSpace });
  });

  test("a switch tells its new state", async () => {
    const onSet = show({ ...threshold, kind: "switch", label: "Follow the voice" }, false);
    await userEvent.click(screen.getByLabelText("Follow the voice"));
    expect(onSet).toHaveBeenCalledWith(true);
  });

  test.each([
    [makeup, "Auto", { value: "auto" }],
    [makeup, "3", { value: 3 }],
    [threshold, "auto", { fault: '"auto" is not understood: Threshold must be from −80 to 30 dB' }],
    [makeup, "x", { fault: '"x" is not understood: Make-up must be from −80 to 30 dB or "auto"' }],
    [release, "1 s", { value: 1000 }],
    [release, "0,2 s", { value: 200 }],
    [release, "1 m", { fault: '"1 m" is not understood: Release must be from 5 to 5000 ms' }],
    [mix, "50%", { value: 0.5 }],
  ])("typed text is read", (setting, text, expected) => {
    expect(readTyped(setting, text)).toEqual(expected);
  });

  test.each([threshold, attack])("slider positions and values agree", (setting) => {
    const scale = sliderScale(setting);
    for (const share of [0, 0.25, 0.5, 1]) {
      expect(scale.share(scale.value(share))).toBeCloseTo(share, 1);
    }
    expect(scale.value(0)).toBeGreaterThanOrEqual(setting.low ?? 0);
  });
});
