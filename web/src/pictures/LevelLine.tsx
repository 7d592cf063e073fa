import { useTheme } from "@mui/material/styles";

import { formatDb } from "./figures";

interface Props {
  noise: number | null | undefined;
  voice: number | null | undefined;
  peak: number | null | undefined;
  side: "before" | "after";
  width?: number;
}

const LOWEST_DB = -84;

/** Noise, voice and peak on one line: square, disc, triangle, as everywhere. */
export function LevelLine({ noise, voice, peak, side, width = 150 }: Props) {
  const { colours } = useTheme();
  const x = (db: number) => 8 + (width - 16) * Math.min(1, Math.max(0, 1 - db / LOWEST_DB));
  const colour = side === "before" ? colours.before : colours.after;
  const text = `Noise ${formatDb(noise)}, voice ${formatDb(voice)}, peak ${formatDb(peak)} dB`;
  return (
    <svg width={width} height={20} role="img" aria-label={text}>
      {noise != null && voice != null && (
        <line x1={x(noise)} x2={x(voice)} y1={10} y2={10} stroke={colour} strokeWidth={4} opacity={0.4} />
      )}
      {voice != null && peak != null && (
        <line x1={x(voice)} x2={x(peak)} y1={10} y2={10} stroke={colours.ink} strokeWidth={1.5} />
      )}
      {noise != null && (
        <rect
          x={x(noise) - 4} y={6} width={8} height={8} rx={1.5}
          fill={colours.paper} stroke={colours.room} strokeWidth={2}
        />
      )}
      {voice != null && <circle cx={x(voice)} cy={10} r={5} fill={colour} />}
      {peak != null && (
        <path
          d={`M${x(peak)} 5 l5 9 h-10 Z`}
          fill={colours.paper} stroke={colours.ink} strokeWidth={1.5}
        />
      )}
    </svg>
  );
}
