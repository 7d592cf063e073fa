import { useTheme } from "@mui/material/styles";

import { formatDb, formatHz } from "./figures";

interface Band {
  freq_hz: number;
  level_dbfs: number | null;
}

interface Props {
  bands: readonly Band[];
  /** Of what, for those who cannot see it. */
  name: string;
  /** Another one behind it, for comparing. */
  behind?: readonly Band[];
  width?: number;
  height?: number;
}

const HIGH_DB = -40;
const LOW_DB = -110;

/** Third-octave bands as steps from low to high frequencies. */
export function BandPicture({ bands, name, behind, width = 220, height = 56 }: Props) {
  const { colours } = useTheme();
  const plot = height - 14;
  const y = (level: number | null) => plot * Math.min(1, Math.max(0, ((level ?? LOW_DB) - HIGH_DB) / (LOW_DB - HIGH_DB)));
  const step = width / Math.max(1, bands.length);
  const outline = (these: readonly Band[]) =>
    these.map((band, i) => `${i ? "L" : "M"}${i * step} ${y(band.level_dbfs)}H${(i + 1) * step}`).join("");
  const loudest = bands.reduce<Band | null>((best, b) => ((b.level_dbfs ?? -999) > (best?.level_dbfs ?? -999) ? b : best), null);
  const words = loudest ? `, most at ${formatHz(loudest.freq_hz)} with ${formatDb(loudest.level_dbfs)} dBFS` : "";
  const marks = [100, 1000, 10_000].map((hz) => ({ hz, i: bands.findIndex((b) => b.freq_hz >= hz * 0.95) }));
  return (
    <svg role="img" aria-label={`Spectrum of ${name} in third octaves${words}`} width={width} height={height}>
      {behind && <path d={outline(behind)} fill="none" stroke={colours.muted} strokeDasharray="3 3" />}
      <path d={`${outline(bands)}V${plot}H0Z`} fill={colours.room} opacity={0.18} />
      <path d={outline(bands)} fill="none" stroke={colours.room} strokeWidth={1.5} />
      {marks.map(({ hz, i }) => i > 0 && (
        <text key={hz} x={(i + 0.5) * step} y={height - 2} fontSize={12} fill={colours.muted} textAnchor="middle">
          {formatHz(hz).replace(" ", "\u202f")}
        </text>
      ))}
    </svg>
  );
}
