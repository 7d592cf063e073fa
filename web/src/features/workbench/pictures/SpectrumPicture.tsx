import { useTheme } from "@mui/material/styles";
import type { ReactNode } from "react";

import type { StepPicture } from "../../../api/types";
import { formatDb } from "../../../pictures/figures";
import { FREQ_TICKS, HIGHEST_HZ, LOWEST_HZ, spectrumRange } from "../../../pictures/frequencies";
import { MARGINS, Plot } from "../../../pictures/Plot";
import { areaPath, linear, linePath, logarithmic, type Scale } from "../../../pictures/scales";

interface Props {
  picture: StepPicture;
  width: number;
  height: number;
  words: string;
  live?: boolean;
  /** Drawn over the spectra. */
  children?: (x: Scale, bottom: number) => ReactNode;
}

/** Spectra into a step and out of it, over log frequency. */
export function SpectrumPicture({ picture, width, height, words, live = false, children }: Props) {
  const { colours } = useTheme();
  const { freqs_hz: freqs, before, after, tone_before: tone, tone_after: left, noise_learned: learned } = picture.spectrum;
  const room = tone ?? learned;
  const range = spectrumRange(before, after);
  const bottom = height - MARGINS.bottom;
  const x = logarithmic([LOWEST_HZ, HIGHEST_HZ], [MARGINS.left, width - MARGINS.right]);
  const y = linear(range, [bottom, MARGINS.top]);
  const clip = `within-${width}-${height}`;
  const ticks = [range[1], range[1] - 20, range[1] - 40, range[1] - 60].map((at) => ({ at, text: formatDb(at).replace(".0", "") }));
  return (
    <Plot width={width} height={height} x={x} y={y} xTicks={width < 420 ? FREQ_TICKS.filter((t) => /Hz/.test(t.text)) : FREQ_TICKS} yTicks={ticks} words={words} live={live}>
      <clipPath id={clip}>
        <rect x={MARGINS.left} y={MARGINS.top} width={width - MARGINS.left - MARGINS.right} height={bottom - MARGINS.top} />
      </clipPath>
      <g clipPath={`url(#${clip})`}>
        <path d={areaPath(freqs, before, x, y, bottom)} fill={colours.before} opacity={0.13} />
        <path d={linePath(freqs, before, x, y)} fill="none" stroke={colours.before} strokeWidth={1.3} strokeDasharray="4 3" />
        {room && <path d={linePath(freqs, room, x, y)} fill="none" stroke={colours.room} strokeWidth={1.5} strokeDasharray="1 4" strokeLinecap="round" />}
        {left && <path d={linePath(freqs, left, x, y)} fill="none" stroke={colours.room} strokeWidth={1.2} />}
        <path d={linePath(freqs, after, x, y)} fill="none" stroke={colours.after} strokeWidth={1.5} />
      </g>
      {children?.(x, bottom)}
    </Plot>
  );
}

/** What the lines of a spectrum are. */
export function SpectrumLegend({ room, curve }: { room?: "tone" | "learned" | undefined; curve?: string }) {
  const { colours } = useTheme();
  const line = (colour: string, dashes: string | undefined, text: string, width = 1.8) => (
    <span style={{ display: "inline-flex", alignItems: "center", gap: 5, whiteSpace: "nowrap" }}>
      <svg width={22} height={6} aria-hidden="true">
        <line x1={0} x2={22} y1={3} y2={3} stroke={colour} strokeWidth={width} strokeDasharray={dashes} />
      </svg>
      {text}
    </span>
  );
  return (
    <div style={{ display: "flex", gap: 14, fontSize: 12, color: colours.muted }}>
      {curve && line(colours.ink, undefined, curve, 2.4)}
      {line(colours.before, "4 3", "Input")}
      {line(colours.after, undefined, "Output")}
      {room && line(colours.room, "1 3", room === "tone" ? "Room tone in" : "Noise learned")}
      {room === "tone" && line(colours.room, undefined, "and out", 1.2)}
    </div>
  );
}
