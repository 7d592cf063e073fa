import { CurveBeforeAfter } from "../pictures/CurveBeforeAfter";
import { asNumber, shown, type PictureProps, type StepView } from "./view";

function Picture(props: PictureProps) {
  const p = props.step.params;
  const found = props.point?.report.threshold_dbfs;
  const threshold = typeof found === "number" ? found : undefined;
  return (
    <CurveBeforeAfter
      {...props} caption="Out over in, dBFS; how often the passage has each level" thresholdDbfs={threshold}
      guardDbfs={threshold === undefined ? undefined : threshold - (asNumber(p.threshold_db) ?? 0) + (asNumber(p.quiet_guard_db) ?? 0)}
    />
  );
}

export const view: StepView = {
  gist: (p) => `${shown(p.ratio)} : 1`,
  seldom: ["auto_release", "detector", "mix", "sidechain_high_pass_hz"],
  drawsWork: true,
  Picture,
};
