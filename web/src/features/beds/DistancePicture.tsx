import { useTheme } from "@mui/material/styles";

import type { Laid } from "../../api/types";
import { formatDb, formatTime } from "../../pictures/figures";
import { MARGINS, Plot } from "../../pictures/Plot";
import { linear, linePath } from "../../pictures/scales";

const TOP_DB = 40;
const STEP_DB = 10;
/** Under this, words over music are hard to follow (common practice, no source). */
export const CLEAR_DB = 10;

/** How far the voice stands over the bed while it speaks, and how far the bed is down. */
export function DistancePicture({ told, width, height }: { told: Laid; width: number; height: number }) {
  const { colours } = useTheme();
  const x = linear([0, told.duration_s], [MARGINS.left, width - MARGINS.right]);
  // The bed's own way down is drawn to the same scale.
  const lowDb = Math.min(-STEP_DB, STEP_DB * Math.floor(Math.min(...told.bed_gain_db) / STEP_DB));
  const y = linear([lowDb, TOP_DB], [height - MARGINS.bottom, MARGINS.top]);
  const times = told.distance_db.map((_, i) => (i + 0.5) * told.step_s);
  const held = (v: number | null) => (v === null ? null : Math.max(lowDb, Math.min(TOP_DB, v)));
  const step = [2, 5, 10, 30, 60, 300, 600].find((s) => told.duration_s / s <= 10) ?? 1800;
  const xTicks = Array.from({ length: Math.floor(told.duration_s / step) + 1 }, (_, i) => ({ at: i * step, text: formatTime(i * step, 0) }));
  const yTicks = Array.from({ length: (TOP_DB - lowDb) / STEP_DB + 1 }, (_, i) => lowDb + i * STEP_DB).map((at) => ({ at, text: String(at).replace("-", "\u2212") }));
  const words = `Distance of the voice from the bed over time, dB: typically ${formatDb(told.typical_db)}, nine tenths of the words over ${formatDb(told.least_db)}. Below: the gain of the bed.`;
  return (
    <Plot width={width} height={height} x={x} y={y} xTicks={xTicks} yTicks={yTicks} words={words}>
      <line x1={MARGINS.left} x2={width - MARGINS.right} y1={y(CLEAR_DB)} y2={y(CLEAR_DB)} stroke={colours.pass} strokeWidth={1.5} strokeDasharray="7 4" />
      <path d={linePath(times, told.bed_gain_db, x, y)} fill="none" stroke={colours.room} strokeWidth={2} />
      <path d={linePath(times, told.distance_db.map(held), x, y)} fill="none" stroke={colours.after} strokeWidth={2} />
      <text x={width - MARGINS.right} y={y(CLEAR_DB) - 5} fontSize={12} fill={colours.pass} textAnchor="end" stroke={colours.paper} strokeWidth={4} paintOrder="stroke">
        easy to follow from here up
      </text>
    </Plot>
  );
}
