import Box from "@mui/material/Box";

import { Caption } from "../pictures/Caption";
import { LevelsPicture, type LevelMark } from "../pictures/LevelsPicture";
import { OpenStrip } from "../pictures/WorkPicture";
import { asNumber, shown, type PictureProps, type StepView } from "./view";

function Picture({ step, label, picture, point, width, height }: PictureProps) {
  const p = step.params;
  const threshold = point?.report.threshold_dbfs;
  const marks: LevelMark[] = typeof threshold === "number" ? [{ dbfs: threshold, text: "opens" }] : [];
  const hysteresis = asNumber(p.hysteresis_db) ?? 0;
  if (typeof threshold === "number" && p.mode === "gate" && hysteresis > 0) marks.unshift({ dbfs: threshold - hysteresis, text: "shuts", dashed: true });
  return (
    <>
      <Caption text="How often the passage has each level, dBFS" />
      <LevelsPicture levels={picture.levels} width={width} height={height - 62} name={label} marks={marks} />
      <Box sx={{ mt: 1 }}>
        <OpenStrip work={picture.work[0] ?? []} floorDb={asNumber(p.floor_db) ?? -12} width={width} />
        <Caption text="Open over the passage" />
      </Box>
    </>
  );
}

export const view: StepView = {
  gist: (p) => (p.mode === "gate" ? `${shown(p.floor_db)} dB` : `${shown(p.ratio)} : 1, ${shown(p.floor_db)} dB`),
  // A gate turns down what lies between the words; the words pass.
  labels: { typical_reduction_db: "Gap reduction", max_reduction_db: "Max gap reduction", active_share: "Closed" },
  seldom: ["hysteresis_db", "open_early_ms", "hold_ms"],
  drawsWork: true,
  Picture,
};
