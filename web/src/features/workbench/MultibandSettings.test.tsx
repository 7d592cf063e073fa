import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";

import type { Params, StepType } from "../../api/types";
import { numberSetting, show } from "../../testing";
import { MultibandSettings } from "./MultibandSettings";

const type = {
  type: "multiband", label: "Multiband compressor", summary: "",
  settings: [
    { ...numberSetting, name: "crossovers_hz", kind: "numbers", default: [200, 3000] },
    { ...numberSetting, name: "bands", kind: "records", record: [numberSetting] },
  ],
} as unknown as StepType;
const params = {
  crossovers_hz: [200, 3000],
  bands: [{ threshold_db: -24 }, { threshold_db: -20 }, { threshold_db: -30 }],
} as Params;

function showSettings() {
  const onSet = vi.fn();
  show(<MultibandSettings hidden={[]} type={type} params={params} onSet={onSet} />);
  return onSet;
}

describe("settings of the multiband compressor", () => {
  it("shows one band at a time, named by its edges", async () => {
    const onSet = showSettings();
    expect(screen.getAllByRole("tab").map((t) => t.textContent)).toEqual(["Below 200 Hz", "200 Hz to 3 kHz", "Above 3 kHz"]);
    expect(screen.getByLabelText("Threshold")).toHaveValue("−24");
    await userEvent.click(screen.getByRole("tab", { name: "Above 3 kHz" }));
    expect(screen.getByLabelText("Threshold")).toHaveValue("−30");
    await userEvent.clear(screen.getByLabelText("Threshold"));
    await userEvent.type(screen.getByLabelText("Threshold"), "-28{Enter}");
    expect(onSet).toHaveBeenCalledWith({
      bands: [{ threshold_db: -24 }, { threshold_db: -20 }, { threshold_db: -28 }],
    }, undefined);
  });

  it("changes crossovers and bands together", async () => {
    const onSet = showSettings();
    const field = screen.getByLabelText("Crossovers");
    await userEvent.clear(field);
    await userEvent.type(field, "150, 900, 4000{Enter}");
    const [changed] = onSet.mock.calls[0] as [Params];
    expect(changed.crossovers_hz).toEqual([150, 900, 4000]);
    expect(changed.bands).toHaveLength(4);
  });

  it.each(["900, 200", "20", "1, 2, 3, 4", "two"])("refuses %j and says what is allowed", async (text) => {
    const onSet = showSettings();
    const field = screen.getByLabelText("Crossovers");
    await userEvent.clear(field);
    await userEvent.type(field, `${text}{Enter}`);
    expect(onSet).not.toHaveBeenCalled();
    expect(screen.getByText("1 to 3 rising numbers, 40 to 18000 Hz")).toBeVisible();
    await userEvent.type(field, "{Escape}");
    expect(field).toHaveValue("200, 3000");
  });
});
