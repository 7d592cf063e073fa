import { useTheme } from "@mui/material/styles";

import type { StepPicture } from "../../../api/types";
import { formatDb } from "../../../pictures/figures";
import { MARGINS, Plot } from "../../../pictures/Plot";
import { areaPath, linear, linePath } from "../../../pictures/scales";
import { loudest, typical } from "./levelFigures";

export interface LevelMark {
  dbfs: number;
  text: string;
  dashed?: boolean;
}

interface Props {
  levels: StepPicture["levels"];
  width: number;
  height: number;
  name: string;
  marks: readonly LevelMark[];
}

const LOW = -80;
/** As wide as the words of a mark. */
const WORD = 70;
const TICKS = [0, -20, -40, -60, -80].map((at) => ({ at, text: formatDb(at).replace(".0", "") }));

/** How often the passage has each level, before and after: the room's hump and the voice's. */
export function LevelsPicture({ levels, width, height, name, marks }: Props) {
  const { colours } = useTheme();
  const margins = { ...MARGINS, left: 8, top: 22 };
  const bottom = height - margins.bottom;
  const x = linear([LOW, 0], [margins.left, width - margins.right]);
  const most = Math.max(0.02, ...levels.before, ...levels.after);
  const y = linear([0, most], [bottom, margins.top]);
  const at = (shares: readonly number[]) => shares.map((share, i) => [levels.lowest_dbfs + i + 0.5, share] as const).filter(([level]) => level >= LOW);
  const [before, after] = [at(levels.before), at(levels.after)];
  const xs = before.map(([level]) => level);
  const figures = (shares: readonly number[]) => `typical ${formatDb(typical(shares, levels.lowest_dbfs))}, loudest ${formatDb(loudest(shares, levels.lowest_dbfs))} dBFS`;
  const words = `${name}: levels of the passage. Before: ${figures(levels.before)}. After: ${figures(levels.after)}. ${marks.map((m) => `${m.text} ${formatDb(m.dbfs)}`).join(", ")}`;
  const lowest = Math.min(...marks.map((m) => m.dbfs));
  /** Words of two marks lie on either side of them, where the picture has room for that. */
  const anchor = ({ dbfs }: LevelMark) => {
    if (x(dbfs) > width - margins.right - WORD) return "end";
    return marks.length > 1 && dbfs === lowest && x(dbfs) > margins.left + WORD ? "end" : "start";
  };
  return (
    <Plot width={width} height={height} x={x} y={y} xTicks={TICKS} yTicks={[]} words={words} margins={margins}>
      <path d={areaPath(xs, before.map(([, s]) => s), x, y, bottom)} fill={colours.before} opacity={0.2} />
      <path d={linePath(xs, before.map(([, s]) => s), x, y)} fill="none" stroke={colours.before} strokeWidth={1.3} strokeDasharray="4 3" />
      <path d={linePath(xs, after.map(([, s]) => s), x, y)} fill="none" stroke={colours.after} strokeWidth={2} />
      {marks.map((mark) => (
        <g key={mark.text}>
          <line x1={x(Math.max(LOW, mark.dbfs))} x2={x(Math.max(LOW, mark.dbfs))} y1={margins.top - 4} y2={bottom} stroke={colours.ink} strokeDasharray={mark.dashed ? "2 4" : undefined} />
          <text x={x(Math.max(LOW, mark.dbfs))} y={margins.top - 9} fontSize={12} fill={colours.ink} textAnchor={anchor(mark)}>{mark.text}</text>
        </g>
      ))}
    </Plot>
  );
}
