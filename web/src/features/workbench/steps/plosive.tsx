import { formatNumber } from "../../../pictures/figures";
import { figure, shown, type StepView } from "./view";

export const view: StepView = {
  gist: (p) => `${shown(p.sureness_percent)} % sure`,
  did: (report) => {
    const mended = figure(report, "mended");
    return mended === null ? null : `${formatNumber(mended)} thumps`;
  },
  labels: { mended: "Thumps turned down", refused: "Left alone", strength_db: "Stood out by" },
};
