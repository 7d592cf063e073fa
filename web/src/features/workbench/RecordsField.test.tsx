import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, test, vi } from "vitest";

import type { Setting, SettingRecord } from "../../api/types";
import { numberSetting, show } from "../../testing";
import { RecordsField } from "./RecordsField";

const fields: Setting[] = [
  { ...numberSetting, name: "type", kind: "choice", label: "Kind", choices: ["high_pass", "bell"], default: "bell" },
  { ...numberSetting, name: "freq_hz", label: "Frequency", unit: "Hz", low: 10, high: 20_000, default: 1000 },
  { ...numberSetting, name: "gain_db", label: "Gain", low: -30, high: 30, matters_for: ["bell"], default: 0 },
  { ...numberSetting, name: "enabled", kind: "switch", label: "On", default: true },
];
const bands: Setting = {
  ...numberSetting, name: "bands", kind: "records", label: "Bands", most: 3,
  record: fields,
};
const bell: SettingRecord = { type: "bell", freq_hz: 390, gain_db: -3, enabled: true };
const pass: SettingRecord = { type: "high_pass", freq_hz: 80, gain_db: 0, enabled: true };

function showBands(value: SettingRecord[]) {
  const onSet = vi.fn();
  show(<RecordsField setting={bands} value={value} onSet={onSet} />);
  return onSet;
}

describe("list of records", () => {
  test("a new row has the defaults of its declaration", async () => {
    const onSet = showBands([bell]);
    await userEvent.click(screen.getByRole("button", { name: "Add to bands" }));
    expect(onSet).toHaveBeenCalledWith([bell, { type: "bell", freq_hz: 1000, gain_db: 0, enabled: true }]);
  });

  test("no more rows than allowed", () => {
    showBands([bell, bell, bell]);
    expect(screen.getByRole("button", { name: "Add to bands" })).toBeDisabled();
  });

  test("a number is typed with its unit, in one row only", async () => {
    const onSet = showBands([pass, bell]);
    const field = screen.getByLabelText("Frequency, row 2");
    expect(field).toHaveValue("390 Hz");
    await userEvent.clear(field);
    await userEvent.type(field, "2.4k{Enter}");
    expect(onSet).toHaveBeenCalledWith([pass, { ...bell, freq_hz: 2400 }]);
  });

  test("a number that is not allowed is marked and not taken", async () => {
    const onSet = showBands([bell]);
    const field = screen.getByLabelText("Gain, row 1");
    await userEvent.clear(field);
    await userEvent.type(field, "90{Enter}");
    expect(field).toHaveAttribute("aria-invalid", "true");
    expect(field).toHaveAttribute("title", "Gain must be from −30 to 30 dB");
    expect(onSet).not.toHaveBeenCalled();
  });

  test("settings that do not matter for the kind are not offered", () => {
    showBands([pass]);
    expect(screen.queryByLabelText("Gain, row 1")).toBeNull();
  });

  test("kind, switch and removing", async () => {
    const onSet = showBands([pass, bell]);
    await userEvent.selectOptions(screen.getByLabelText("Kind, row 1"), "bell");
    expect(onSet).toHaveBeenLastCalledWith([{ ...pass, type: "bell" }, bell]);
    await userEvent.click(screen.getByLabelText("On, row 2"));
    expect(onSet).toHaveBeenLastCalledWith([pass, { ...bell, enabled: false }]);
    await userEvent.click(screen.getByRole("button", { name: "Remove row 1" }));
    expect(onSet).toHaveBeenLastCalledWith([bell]);
  });
});
