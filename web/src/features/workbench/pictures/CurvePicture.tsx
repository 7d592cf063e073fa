import { useTheme } from "@mui/material/styles";

import type { StepPicture } from "../../../api/types";
import { formatDb } from "../../../pictures/figures";
import { MARGINS, Plot } from "../../../pictures/Plot";
import { areaPath, linear, linePath } from "../../../pictures/scales";
import { loudest, typical } from "./levelFigures";

interface Props {
  curve: NonNullable<StepPicture["curve"]>;
  levels: readonly number[];
  lowestDbfs: number;
  width: number;
  height: number;
  name: string;
  thresholdDbfs?: number | undefined;
  guardDbfs?: number | undefined;
}

const LOW = -60;
const TICKS = [0, -20, -40, -60].map((at) => ({ at, text: formatDb(at).replace(".0", "") }));

/** Level out over level in, with how often the passage has each level. */
export function CurvePicture({ curve, levels, lowestDbfs, width, height, name, thresholdDbfs, guardDbfs }: Props) {
  const { colours } = useTheme();
  const bottom = height - MARGINS.bottom;
  const x = linear([LOW, 0], [MARGINS.left, width - MARGINS.right]);
  const y = linear([LOW, 0], [bottom, MARGINS.top]);
  const out = (level: number) => {
    const at = curve.in_dbfs.findIndex((v) => v >= level);
    return curve.out_dbfs[at] ?? level;
  };
  const [word, most] = [typical(levels, lowestDbfs), loudest(levels, lowestDbfs)];
  const share = linear([0, Math.max(0.02, ...levels)], [bottom, bottom - 0.35 * (bottom - MARGINS.top)]);
  const levelAt = levels.map((_, i) => lowestDbfs + i + 0.5);
  const inside = levelAt.map((level, i) => [level, levels[i] ?? 0] as const).filter(([level]) => level >= LOW);
  const point = (level: number, text: string, above: boolean) =>
    level > LOW && (
      <g>
        <circle cx={x(level)} cy={y(Math.max(LOW, out(level)))} r={5.5} fill={colours.card} stroke={colours.ink} strokeWidth={2} />
        <text x={x(level) + (above ? -8 : 9)} y={y(Math.max(LOW, out(level))) + (above ? -8 : 16)} fontSize={12} fill={colours.ink} textAnchor={above ? "end" : "start"}>{text}</text>
      </g>
    );
  const words = `${name}: out over in. The voice comes in at ${formatDb(word)} and leaves at ${formatDb(out(word))} dBFS; the loudest moment comes in at ${formatDb(most)} and leaves at ${formatDb(out(most))}.`;
  return (
    <Plot width={width} height={height} x={x} y={y} xTicks={TICKS} yTicks={TICKS} words={words}>
      <path d={areaPath(inside.map(([level]) => level), inside.map(([, s]) => s), x, share, bottom)} fill={colours.before} opacity={0.2} />
      <line x1={x(LOW)} y1={y(LOW)} x2={x(0)} y2={y(0)} stroke={colours.muted} strokeDasharray="2 4" />
      {thresholdDbfs !== undefined && thresholdDbfs > LOW && (
        <g>
          <line x1={x(thresholdDbfs)} x2={x(thresholdDbfs)} y1={MARGINS.top} y2={bottom} stroke={colours.ink} />
          <text x={x(thresholdDbfs) - 5} y={MARGINS.top + 12} fontSize={12} fill={colours.ink} textAnchor="end">threshold</text>
        </g>
      )}
      {guardDbfs !== undefined && guardDbfs > LOW && (
        <g>
          <line x1={x(guardDbfs)} x2={x(guardDbfs)} y1={MARGINS.top + 40} y2={bottom} stroke={colours.room} strokeDasharray="2 4" strokeWidth={1.5} />
          <text x={x(guardDbfs) - 5} y={MARGINS.top + 52} fontSize={12} fill={colours.room} textAnchor="end">guard</text>
        </g>
      )}
      <path d={linePath(curve.in_dbfs, curve.out_dbfs.map((v) => (v < LOW ? null : Math.min(0, v))), x, y)} fill="none" stroke={colours.after} strokeWidth={2.6} strokeLinejoin="round" />
      {point(word, "typical word", false)}
      {most - word > 3 && point(most, "loudest", true)}
    </Plot>
  );
}
