import { formatChange } from "../../../pictures/figures";
import { CurveBeforeAfter } from "../pictures/CurveBeforeAfter";
import { figure, shown, type PictureProps, type StepView } from "./view";

const Picture = (props: PictureProps) => <CurveBeforeAfter {...props} caption="Out over in, of peaks, dBFS" />;

export const view: StepView = {
  gist: (p) => `${shown(p.ceiling_dbtp)} dBTP`,
  did: (report) => {
    const most = figure(report, "max_reduction_db");
    return most === null ? null : most < 0.05 ? "not needed" : `max ${formatChange(-most)} dB`;
  },
  drawsWork: true,
  Picture,
};
