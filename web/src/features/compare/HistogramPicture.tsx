import { useTheme } from "@mui/material/styles";

import type { TimeSeries } from "../../api/types";
import { formatDb } from "../../pictures/figures";
import { MARGINS, Plot } from "../../pictures/Plot";
import { areaPath, linear, linePath } from "../../pictures/scales";

const LOW_DBFS = -85;
const TICKS = [0, -20, -40, -60, -80].map((at) => ({ at, text: formatDb(at).replace(".0", "") }));

interface Mark {
  voice: number | null;
  noise: number | null;
}

/** How often each level stands there: the room's hump, the voice's, and where their levels lie. */
export function HistogramPicture({ a, b, marks, width, height }: { a: TimeSeries; b: TimeSeries; marks: readonly [Mark, Mark]; width: number; height: number }) {
  const { colours } = useTheme();
  const margins = { ...MARGINS, left: 10, top: 20 };
  const bottom = height - margins.bottom;
  const x = linear([LOW_DBFS, 0], [margins.left, width - margins.right]);
  const y = linear([0, Math.max(0.02, ...a.levels, ...b.levels)], [bottom, margins.top]);
  const points = (timeSeries: TimeSeries) => timeSeries.levels.map((share, i) => [timeSeries.lowest_dbfs + i + 0.5, share] as const).filter(([level]) => level >= LOW_DBFS);
  const [before, after] = [points(a), points(b)];
  const xs = before.map(([level]) => level);
  const words = `Share of time at each level, dBFS. Before: voice ${formatDb(marks[0].voice)}, noise ${formatDb(marks[0].noise)}. After: voice ${formatDb(marks[1].voice)}, noise ${formatDb(marks[1].noise)}.`;
  return (
    <Plot width={width} height={height} x={x} y={y} xTicks={TICKS} yTicks={[]} words={words} margins={margins}>
      <path d={areaPath(xs, before.map(([, s]) => s), x, y, bottom)} fill={colours.before} opacity={0.2} />
      <path d={linePath(xs, before.map(([, s]) => s), x, y)} fill="none" stroke={colours.before} strokeWidth={1.3} strokeDasharray="4 3" />
      <path d={linePath(xs, after.map(([, s]) => s), x, y)} fill="none" stroke={colours.after} strokeWidth={2} />
      {marks.map((mark, i) => (
        <g key={i} fill={i === 0 ? colours.before : colours.after}>
          {mark.voice !== null && <circle cx={x(Math.max(LOW_DBFS, mark.voice))} cy={margins.top - 8} r={5} />}
          {mark.noise !== null && <rect x={x(Math.max(LOW_DBFS, mark.noise)) - 4.5} y={margins.top - 12.5} width={9} height={9} />}
        </g>
      ))}
    </Plot>
  );
}
