import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";

import type { LivePoint, Params, SettingRecord, Step, StepPicture } from "../../../api/types";
import { formatDb, formatHz } from "../../../pictures/figures";
import { BandCurve } from "./BandCurve";
import { CurvePicture } from "./CurvePicture";
import { DecayPicture } from "./DecayPicture";
import { LevelsPicture, type LevelMark } from "./LevelsPicture";
import { NoisePicture } from "./NoisePicture";
import { SpectrumLegend, SpectrumPicture } from "./SpectrumPicture";
import { OpenStrip, WorkPicture, type LoopPlace } from "./WorkPicture";

interface Props {
  step: Step;
  label: string;
  picture: StepPicture;
  point: LivePoint | undefined;
  width: number;
  height: number;
  at: LoopPlace | null;
  onSet: (params: Params, gesture?: string) => void;
}

const num = (value: unknown) => (typeof value === "number" ? value : undefined);

/** The picture that belongs to a step; EQ has its own place. */
export function StepPictureView({ step, label, picture, point, width, height, at, onSet }: Props) {
  const p = step.params;
  const threshold = num(point?.report.threshold_dbfs);
  switch (step.type) {
    case "noise_reduction":
      return (
        <NoisePicture
          picture={picture} depthDb={num(p.depth_db) ?? 0} curve={p.depth_curve as SettingRecord[]} width={width} height={height - 28}
          onSet={(curve, gesture) => onSet({ depth_curve: curve }, gesture)}
        />
      );
    case "compressor":
    case "saturation":
    case "limiter":
      if (!picture.curve) break;
      return (
        <>
          <Caption text={step.type === "compressor" ? "Out over in, dBFS; how often the passage has each level" : "Out over in, of peaks, dBFS"} />
          <CurvePicture
            curve={picture.curve} levels={picture.levels.before} lowestDbfs={picture.levels.lowest_dbfs} width={width} height={height - 20} name={label}
            thresholdDbfs={step.type === "compressor" ? threshold : undefined}
            guardDbfs={step.type === "compressor" && threshold !== undefined ? threshold - (num(p.threshold_db) ?? 0) + (num(p.quiet_guard_db) ?? 0) : undefined}
          />
        </>
      );
    case "gate": {
      const marks: LevelMark[] = threshold === undefined ? [] : [{ dbfs: threshold, text: "opens" }];
      const hysteresis = num(p.hysteresis_db) ?? 0;
      if (threshold !== undefined && p.mode === "gate" && hysteresis > 0) marks.unshift({ dbfs: threshold - hysteresis, text: "shuts", dashed: true });
      return (
        <>
          <Caption text="How often the passage has each level, dBFS" />
          <LevelsPicture levels={picture.levels} width={width} height={height - 62} name={label} marks={marks} />
          <Box sx={{ mt: 1 }}>
            <OpenStrip work={picture.work[0] ?? []} floorDb={num(p.floor_db) ?? -12} width={width} />
            <Caption text="Open over the passage" />
          </Box>
        </>
      );
    }
    case "de_esser": {
      const [low, high] = [num(p.low_hz) ?? 4000, num(p.high_hz) ?? 9000];
      return (
        <>
          <SpectrumLegend label="it" />
          <SpectrumPicture picture={picture} width={width} height={height - 24} words={`Spectra of the passage; it works from ${formatHz(low)} to ${formatHz(high)}`}>
            {(x, bottom) => <rect x={x(low)} width={Math.max(2, x(high) - x(low))} y={8} height={bottom - 8} fill="currentColor" opacity={0.09} />}
          </SpectrumPicture>
        </>
      );
    }
    case "multiband": {
      const edges = (p.crossovers_hz as number[] | undefined) ?? [];
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
    case "ambience":
      if (!picture.decay) break;
      return (
        <>
          <Caption text="How the room rings on, dB" />
          <DecayPicture decay={picture.decay} width={width} height={height - 20} />
        </>
      );
    default:
      break;
  }
  const marks: LevelMark[] = [];
  if (step.type === "normalize") marks.push({ dbfs: num(p.target_db) ?? 0, text: `peak to ${formatDb(num(p.target_db) ?? 0)}` });
  if (step.type === "loudness") marks.push({ dbfs: num(p.target) ?? 0, text: "target" }, { dbfs: num(p.ceiling_dbtp) ?? 0, text: "ceiling", dashed: true });
  return (
    <>
      <Caption text="How often the passage has each level, dBFS" />
      <LevelsPicture levels={picture.levels} width={width} height={height - 20} name={label} marks={marks} />
    </>
  );
}

function Caption({ text }: { text: string }) {
  return (
    <Typography variant="caption" color="textSecondary" component="p" noWrap>
      {text}
    </Typography>
  );
}
