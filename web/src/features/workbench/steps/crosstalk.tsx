import { shown, type StepView } from "./view";

export const view: StepView = {
  gist: (p) => `${shown(p.depth_db)} dB${p.width_percent === 100 ? "" : `, width ${shown(p.width_percent)} %`}`,
  labels: { crosstalk_left_db: "Crosstalk on the left", crosstalk_right_db: "Crosstalk on the right", left_down_share: "Left turned down", right_down_share: "Right turned down" },
  drawsWork: true,
};
