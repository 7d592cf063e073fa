import { useTheme } from "@mui/material/styles";

import type { TimeSeries } from "../../api/types";
import { formatChange, formatDb } from "../../pictures/figures";
import { FREQ_TICKS, HIGHEST_HZ, LOWEST_HZ, spectrumRange } from "../../pictures/frequencies";
import { MARGINS, Plot } from "../../pictures/Plot";
import { linear, linePath, logarithmic } from "../../pictures/scales";

const DIFFERENCE = 70;
const MOST_DB = 15;

/** Fine average spectrum of both at equal loudness, and below it the difference. */
export function SpectrumPair({ a, b, louderDb, width, height }: { a: TimeSeries; b: TimeSeries; louderDb: number; width: number; height: number }) {
  const { colours } = useTheme();
  const freqs = a.freqs_hz;
  const before = a.spectrum_dbfs ?? [];
  // Rates can differ: the finer curve is read where both have points.
  const after = (b.spectrum_dbfs ?? []).slice(0, freqs.length).map((v) => v - louderDb);
  const range = spectrumRange(before, after);
  const upper = height - DIFFERENCE;
  const x = logarithmic([LOWEST_HZ, HIGHEST_HZ], [MARGINS.left, width - MARGINS.right]);
  const y = linear(range, [upper, MARGINS.top]);
  const change = linear([-MOST_DB, MOST_DB], [height - MARGINS.bottom, upper + 14]);
  const held = (v: number | undefined) => (v === undefined ? null : Math.max(range[0], v));
  const changes = freqs.map((_, i) => {
    const [was, now] = [before[i], after[i]];
    return was === undefined || now === undefined ? null : Math.max(-MOST_DB, Math.min(MOST_DB, now - was));
  });
  return (
    <Plot
      width={width} height={height} x={x} y={y} xTicks={FREQ_TICKS} words={`Fine average spectrum before and after, after drawn ${formatDb(louderDb)} dB softer; below it the difference.`}
      yTicks={[0, 20, 40, 60].map((down) => ({ at: range[1] - down, text: formatDb(range[1] - down).replace(".0", "") }))}
    >
      <path d={linePath(freqs, before.map(held), x, y)} fill="none" stroke={colours.before} strokeWidth={1.6} strokeDasharray="4 3" />
      <path d={linePath(freqs, after.map(held), x, y)} fill="none" stroke={colours.after} strokeWidth={2} />
      {[MOST_DB, 0, -MOST_DB].map((db) => (
        <g key={db}>
          <line x1={MARGINS.left} x2={width - MARGINS.right} y1={change(db)} y2={change(db)} stroke={colours.rule} />
          <text x={MARGINS.left - 6} y={change(db) + 4} fontSize={12} fill={colours.muted} textAnchor="end">{formatChange(db).replace(".0", "")}</text>
        </g>
      ))}
      <path d={linePath(freqs, changes, x, change)} fill="none" stroke={colours.ink} strokeWidth={1.6} />
    </Plot>
  );
}
