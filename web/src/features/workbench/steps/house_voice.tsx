import { useTheme } from "@mui/material/styles";

import { formatDb, formatNumber } from "../../../pictures/figures";
import { FREQ_TICKS } from "../../../pictures/frequencies";
import { MARGINS, Plot } from "../../../pictures/Plot";
import { linear, logarithmic } from "../../../pictures/scales";
import { Caption } from "../pictures/Caption";
import { countOf, figure, shown, type PictureProps, type StepView } from "./view";

const MOST_DB = 24;

/** The tone that the voice comes to. */
function Picture({ step, width, height }: PictureProps) {
  const { colours } = useTheme();
  const points = tonePoints(step.params.tone);
  const x = logarithmic([80, 12_500], [MARGINS.left, width - MARGINS.right]);
  const y = linear([-2 * MOST_DB, MOST_DB], [height - 24 - MARGINS.bottom, MARGINS.top]);
  return (
    <>
      <Caption text="Tone of the house voice, dB by third octave" />
      <Plot
        width={width} height={height - 24} x={x} y={y} words="Tone of the house voice" xTicks={FREQ_TICKS.slice(1)}
        yTicks={[-48, -24, 0, 24].map((db) => ({ at: db, text: formatNumber(db) }))}
      >
        <polyline points={points.map(([freqHz, db]) => `${x(freqHz)},${y(Math.max(-2 * MOST_DB, db))}`).join(" ")} fill="none" stroke={colours.after} strokeWidth={2} />
      </Plot>
    </>
  );
}

function tonePoints(tone: unknown): [number, number][] {
  if (!Array.isArray(tone)) return [];
  return tone.map((point: { freq_hz: number; level_db: number }) => [point.freq_hz, point.level_db]);
}

export const view: StepView = {
  gist: (p) => (countOf(p.tone) === 0 ? "none chosen" : `${shown(p.strength_percent)} %`),
  did: (report) => {
    const [before, after] = [figure(report, "apart_before_db"), figure(report, "apart_after_db")];
    return before === null || after === null ? null : `${formatDb(before)} to ${formatDb(after)} dB`;
  },
  labels: { apart_before_db: "Tone apart, before", apart_after_db: "Tone apart, after" },
  inPicture: ["tone"],
  Picture,
};
