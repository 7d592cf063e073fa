import { formatNumber } from "../../../pictures/figures";
import { figure, shown, type StepView } from "./view";

export const view: StepView = {
  gist: (p) => `−${shown(p.depth_db)} dB`,
  did: (report) => {
    const mended = figure(report, "mended");
    return mended === null ? null : `${formatNumber(mended)} breaths`;
  },
  labels: { mended: "Breaths turned down", refused: "Left alone", strength_db: "Over the room" },
};
