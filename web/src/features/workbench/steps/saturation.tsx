import { CurveBeforeAfter } from "../pictures/CurveBeforeAfter";
import { shown, type PictureProps, type StepView } from "./view";

const Picture = (props: PictureProps) => <CurveBeforeAfter {...props} caption="Out over in, of peaks, dBFS" />;

export const view: StepView = {
  gist: (p) => `drive ${shown(p.drive_db)} dB`,
  labels: { max_reduction_db: "Highest peak rounded by" },
  drawsWork: true,
  Picture,
};
