import { formatDb } from "../../../pictures/figures";
import { LevelsBeforeAfter } from "../pictures/LevelsBeforeAfter";
import { asNumber, shown, type PictureProps, type StepView } from "./view";

function Picture(props: PictureProps) {
  const target = asNumber(props.step.params.target_db) ?? 0;
  return <LevelsBeforeAfter {...props} marks={[{ dbfs: target, text: `peak to ${formatDb(target)}` }]} />;
}

export const view: StepView = { gist: (p) => `peak ${shown(p.target_db)} dB`, Picture };
