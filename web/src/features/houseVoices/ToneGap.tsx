import { useTheme } from "@mui/material/styles";

import { formatDb } from "../../pictures/figures";

const HEIGHT = 96, MOST_DB = 9, EVERY = 5;
/** Third octaves from 100 Hz. */
const FIRST_BAND = -10;

/** By how much each third octave lies over or under the house voice. */
export function ToneGap({ bandsDb, width }: { bandsDb: readonly number[]; width: number }) {
  const { colours } = useTheme();
  const middle = HEIGHT / 2 - 8, step = width / bandsDb.length;
  const y = (db: number) => (Math.max(-MOST_DB, Math.min(MOST_DB, db)) / MOST_DB) * (middle - 2);
  const most = bandsDb.reduce((a, b) => (Math.abs(b) > Math.abs(a) ? b : a), 0);
  return (
    <svg width={width} height={HEIGHT} role="img" aria-label={`Tone beside the house voice, at most ${formatDb(most)} dB apart`} style={{ display: "block" }}>
      <line x1={0} x2={width} y1={middle} y2={middle} stroke={colours.muted} />
      {bandsDb.map((db, i) => (
        <rect key={i} x={i * step + 2} width={step - 4} y={db > 0 ? middle - y(db) : middle} height={Math.max(1, Math.abs(y(db)))} fill={colours.before} />
      ))}
      {bandsDb.map((_, i) => i % EVERY === 0 && (
        <text key={i} x={i === 0 ? 0 : i === bandsDb.length - 1 ? width : (i + 0.5) * step} y={HEIGHT - 3} fontSize={12} fill={colours.muted} textAnchor={i === 0 ? "start" : i === bandsDb.length - 1 ? "end" : "middle"}>{frequency(i)}</text>
      ))}
    </svg>
  );
}

function frequency(band: number): string {
  const hz = 1000 * 10 ** ((band + FIRST_BAND) / 10);
  return hz >= 1000 ? `${Number((hz / 1000).toPrecision(2))} kHz` : `${Number(hz.toPrecision(2))} Hz`;
}
