import type { SettingRecord } from "../../../api/types";
import { formatChange } from "../../../pictures/figures";
import { NoisePicture } from "../pictures/NoisePicture";
import { asNumber, figure, shown, type PictureProps, type StepView } from "./view";

function Picture({ step, picture, width, height, onSet }: PictureProps) {
  return (
    <NoisePicture
      picture={picture} depthDb={asNumber(step.params.depth_db) ?? 0} curve={step.params.depth_curve as SettingRecord[]} width={width} height={height - 28}
      onSet={(curve, gesture) => onSet({ depth_curve: curve }, gesture)}
    />
  );
}

export const view: StepView = {
  gist: (p) => `${shown(p.depth_db)} dB deep`,
  did: (report) => {
    const change = figure(report, "room_tone_change_db");
    return change === null ? null : `room ${formatChange(change)} dB`;
  },
  without: (p) => (p.method === "voice_model" ? ["smoothing_oct", "release_ms", "passes"] : []),
  seldom: ["margin_db", "smoothing_oct", "release_ms", "passes"],
  inPicture: ["depth_curve"],
  isWide: true,
  Picture,
};
