import { formatDb } from "../../../pictures/figures";
import { figure, shown, type StepView } from "./view";

export const view: StepView = {
  gist: (p) => `${shown(p.evening_percent)} %, ±${shown(p.range_db)} dB${p.speakers === "as_one" ? "" : ", speakers"}`,
  did: (report) => {
    const [before, after] = [figure(report, "spread_before_db"), figure(report, "spread_after_db")];
    return before === null || after === null ? null : `${formatDb(before)} to ${formatDb(after)} dB`;
  },
  labels: { max_reduction_db: "Loudest phrase, down" },
  drawsWork: true,
};
