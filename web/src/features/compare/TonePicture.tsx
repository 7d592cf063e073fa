import { useTheme } from "@mui/material/styles";

import { formatChange, formatDb } from "../../pictures/figures";
import { FREQ_TICKS, HIGHEST_HZ, LOWEST_HZ, spectrumRange } from "../../pictures/frequencies";
import { MARGINS, Plot } from "../../pictures/Plot";
import { linear, linePath, logarithmic } from "../../pictures/scales";

interface Props {
  bands: readonly { freqHz: number; before: number; after: number }[];
  width: number;
  height: number;
  /** By so much after is shown softer, so that both are equally loud. */
  louderDb: number;
}

const DIFFERENCE = 90;
const MOST_DB = 12;

/** Third octaves before and after at equal loudness, and below them the difference. */
export function TonePicture({ bands, width, height, louderDb }: Props) {
  const { colours } = useTheme();
  const matched = bands.filter((b) => b.freqHz > LOWEST_HZ && b.freqHz < 0.95 * HIGHEST_HZ).map((b) => ({ ...b, after: b.after - louderDb }));
  const freqs = matched.map((b) => b.freqHz);
  const range = spectrumRange(matched.map((b) => b.before), matched.map((b) => b.after));
  const upper = height - DIFFERENCE;
  const x = logarithmic([LOWEST_HZ, HIGHEST_HZ], [MARGINS.left, width - MARGINS.right]);
  const y = linear(range, [upper, MARGINS.top]);
  const change = linear([-MOST_DB, MOST_DB], [height - MARGINS.bottom, upper + 16]);
  const changes = matched.map((b) => Math.max(-MOST_DB, Math.min(MOST_DB, b.after - b.before)));
  const [most] = [...matched].sort((a, b) => Math.abs(b.after - b.before) - Math.abs(a.after - a.before));
  const words = `Average spectrum in third octaves, after shown ${formatDb(louderDb)} dB softer.${most ? ` It changed most at ${most.freqHz} Hz, by ${formatChange(most.after - most.before)} dB.` : ""}`;
  return (
    <Plot
      width={width} height={height} x={x} y={y} xTicks={FREQ_TICKS} words={words}
      yTicks={[range[1], range[1] - 20, range[1] - 40, range[1] - 60].map((at) => ({ at, text: formatDb(at).replace(".0", "") }))}
    >
      <path d={linePath(freqs, matched.map((b) => Math.max(range[0], b.before)), x, y)} fill="none" stroke={colours.before} strokeWidth={1.6} strokeDasharray="4 3" />
      <path d={linePath(freqs, matched.map((b) => Math.max(range[0], b.after)), x, y)} fill="none" stroke={colours.after} strokeWidth={2} />
      {[MOST_DB, 0, -MOST_DB].map((db) => (
        <g key={db}>
          <line x1={MARGINS.left} x2={width - MARGINS.right} y1={change(db)} y2={change(db)} stroke={colours.rule} />
          <text x={MARGINS.left - 6} y={change(db) + 4} fontSize={12} fill={colours.muted} textAnchor="end">{formatChange(db).replace(".0", "")}</text>
        </g>
      ))}
      {matched.map((b, i) => {
        const to = change(changes[i] ?? 0);
        return <rect key={b.freqHz} x={x(b.freqHz) - 7} width={14} y={Math.min(to, change(0))} height={Math.abs(to - change(0))} fill={colours.after} opacity={0.55} />;
      })}
    </Plot>
  );
}
