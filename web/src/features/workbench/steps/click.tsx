import { formatDb, formatNumber } from "../../../pictures/figures";
import { figure, shown, type StepView } from "./view";

export const view: StepView = {
  gist: (p) => `${shown(p.sureness_percent)} % sure`,
  did: (report) => {
    const [mended, strength] = [figure(report, "mended"), figure(report, "strength_db")];
    return mended === null ? null : `${formatNumber(mended)} clicks${strength === null ? "" : `, ${formatDb(strength)} dB out`}`;
  },
  labels: { mended: "Clicks mended", refused: "Left alone", strength_db: "Stood out by" },
  seldom: ["longest_ms"],
};
