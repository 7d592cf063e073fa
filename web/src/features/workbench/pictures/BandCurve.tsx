import { useTheme } from "@mui/material/styles";

import type { StepPicture } from "../../../api/types";
import { formatDb } from "../../../pictures/figures";
import { areaPath, linear, linePath } from "../../../pictures/scales";
import { typical } from "./levelFigures";

interface Props {
  curve: NonNullable<StepPicture["curve"]>;
  levels: readonly number[];
  lowestDbfs: number;
  size: number;
  name: string;
}

const LOW = -70;

/** Level out over level in of one band, small, with how often the band has each level. */
export function BandCurve({ curve, levels, lowestDbfs, size, name }: Props) {
  const { colours } = useTheme();
  const x = linear([LOW, 0], [0, size]);
  const y = linear([LOW, 0], [size, 0]);
  const share = linear([0, Math.max(0.02, ...levels)], [size, 0.6 * size]);
  const inside = levels.map((s, i) => [lowestDbfs + i + 0.5, s] as const).filter(([level]) => level >= LOW);
  const word = typical(levels, lowestDbfs);
  const at = curve.in_dbfs.findIndex((v) => v >= word);
  const out = curve.out_dbfs[at] ?? word;
  return (
    <svg width={size} height={size} role="img" aria-label={`${name}: typical words come in at ${formatDb(word)} and leave at ${formatDb(out)} dBFS`} style={{ flexShrink: 0 }}>
      <rect width={size} height={size} fill="none" stroke={colours.rule} />
      <path d={areaPath(inside.map(([l]) => l), inside.map(([, s]) => s), x, share, size)} fill={colours.before} opacity={0.2} />
      <line x1={0} y1={size} x2={size} y2={0} stroke={colours.muted} strokeDasharray="2 4" />
      <path d={linePath(curve.in_dbfs, curve.out_dbfs.map((v, i) => (v < LOW || (curve.in_dbfs[i] ?? 0) < LOW ? null : Math.min(0, v))), x, y)} fill="none" stroke={colours.after} strokeWidth={2} />
      {word > LOW && <circle cx={x(word)} cy={y(Math.max(LOW, out))} r={3.5} fill={colours.card} stroke={colours.ink} strokeWidth={1.5} />}
    </svg>
  );
}
