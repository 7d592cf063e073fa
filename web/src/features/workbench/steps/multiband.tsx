import Box from "@mui/material/Box";

import { formatHz } from "../../../pictures/figures";
import { MultibandSettings } from "../MultibandSettings";
import { BandCurve } from "../pictures/BandCurve";
import { Caption } from "../pictures/Caption";
import { WorkPicture } from "../pictures/WorkPicture";
import { countOf, type PictureProps, type StepView } from "./view";

function Picture({ step, picture, width, height, at }: PictureProps) {
  const edges = (step.params.crossovers_hz as number[] | undefined) ?? [];
  const names = edges.map((hz, i) => (i === 0 ? `Below ${formatHz(hz)}` : `${formatHz(edges[i - 1] ?? 0)} to ${formatHz(hz)}`));
  if (edges.length > 0) names.push(`Above ${formatHz(edges.at(-1) ?? 0)}`);
  const each = (height - 20 * picture.work.length) / Math.max(1, picture.work.length);
  return (
    <>
      {picture.work.map((work, i) => (
        <Box key={i}>
          <Caption text={`${names[i] ?? ""}: out over in, and turned down, dB`} />
          <Box sx={{ display: "flex", gap: 2 }}>
            {picture.curves?.[i] && (
              <BandCurve curve={picture.curves[i]} levels={picture.band_levels?.[i] ?? []} lowestDbfs={picture.levels.lowest_dbfs} size={each} name={names[i] ?? `Band ${i + 1}`} />
            )}
            <WorkPicture work={work} width={width - (picture.curves?.[i] ? each + 8 : 0)} height={each} name={names[i] ?? `Band ${i + 1}`} at={at} />
          </Box>
        </Box>
      ))}
    </>
  );
}

export const view: StepView = {
  gist: (p) => `${countOf(p.bands)} bands`,
  labels: { typical_reduction_db: "Typical, busiest band", max_reduction_db: "Max, busiest band", active_share: "Active, busiest band" },
  seldom: ["auto_release", "detector", "mix", "sidechain_high_pass_hz"],
  Picture,
  Settings: MultibandSettings,
};
