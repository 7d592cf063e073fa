import { useTheme } from "@mui/material/styles";
import { useMemo } from "react";

import type { Spectrogram } from "../../api/types";
import { formatDb } from "../../pictures/figures";
import { placeOf, spectrogramPixels } from "../../pictures/spectrogram";

const TICKS_HZ = [[100, "100 Hz"], [1000, "1 kHz"], [5000, "5 kHz"]] as const;
const LEFT = 46;
const GAP = 10;

/** Both on one scale of time, frequency and level; after as loud as before. */
export function SpectrogramPair({ a, b, louderDb, width, height }: { a: Spectrogram; b: Spectrogram; louderDb: number; width: number; height: number }) {
  const { colours } = useTheme();
  const pictures = useMemo(
    () => [
      { name: "Before", url: address(a, colours.card, colours.before, 0), data: a, colour: colours.beforeText },
      { name: "After", url: address(b, colours.card, colours.after, louderDb), data: b, colour: colours.afterText },
    ],
    [a, b, louderDb, colours],
  );
  const half = (height - GAP) / 2;
  return (
    <svg width={width} height={height} role="img" aria-label={`Spectrograms before (above) and after (below) on one scale, after drawn ${formatDb(louderDb)} dB softer`}>
      {pictures.map(({ name, url, data, colour }, i) => {
        const top = i * (half + GAP);
        return (
          <g key={name}>
            <rect x={LEFT} y={top} width={width - LEFT} height={half} fill={colours.card} />
            {url !== null && <image href={url} x={LEFT} y={top} width={width - LEFT} height={half} preserveAspectRatio="none" transform={`translate(0 ${2 * top + half}) scale(1 -1)`} style={{ imageRendering: "auto" }} />}
            {TICKS_HZ.map(([hz, text]) => (
              <text key={hz} x={LEFT - 5} y={top + half * (1 - placeOf(hz, data.freqs_hz)) + 4} fontSize={12} fill={colours.muted} textAnchor="end">{text}</text>
            ))}
            <text x={LEFT + 8} y={top + 16} fontSize={13} fontWeight={650} fill={colour}>{name}</text>
          </g>
        );
      })}
    </svg>
  );
}

/** The picture as an address that can stand in an SVG. */
function address(data: Spectrogram, paper: string, ink: string, softerDb: number): string | null {
  return spectrogramPixels({ ...data, floor_db: data.floor_db - softerDb }, paper, ink)?.toDataURL() ?? null;
}
