import { LevelsBeforeAfter } from "../pictures/LevelsBeforeAfter";
import { asNumber, shown, type PictureProps, type StepView } from "./view";

function Picture(props: PictureProps) {
  const { target, ceiling_dbtp } = props.step.params;
  const marks = [{ dbfs: asNumber(target) ?? 0, text: "target" }, { dbfs: asNumber(ceiling_dbtp) ?? 0, text: "ceiling", dashed: true }];
  return <LevelsBeforeAfter {...props} marks={marks} />;
}

const UNITS: Record<string, string> = { voice: "voice", rms: "RMS" };

export const view: StepView = {
  gist: ({ target, measure }) => `${shown(target)} ${(typeof measure === "string" ? UNITS[measure] : undefined) ?? "LUFS"}`,
  Picture,
};
