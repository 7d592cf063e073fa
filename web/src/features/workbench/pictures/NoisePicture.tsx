import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import { useRef, type KeyboardEvent, type PointerEvent } from "react";

import type { SettingRecord, StepPicture } from "../../../api/types";
import { formatDb, formatHz } from "../../../pictures/figures";
import { MARGINS } from "../../../pictures/Plot";
import { linear, linePath, type Scale } from "../../../pictures/scales";
import { newGesture } from "../gestures";
import { SpectrumLegend, SpectrumPicture } from "./SpectrumPicture";

interface Props {
  picture: StepPicture;
  depthDb: number;
  curve: SettingRecord[];
  width: number;
  height: number;
  onSet: (curve: SettingRecord[], gesture?: string) => void;
}

const OCTAVES_HZ = [63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000];
const MOST_DB = 40;

/** Middle of a figure over its baseline, and how near the depth line may come to it. */
const FIGURE_MIDDLE = 4, FIGURE_ROOM = 13;

/** Baseline of a figure of the depth axis, below its depth or above, wherever the line leaves it room. */
export function figureBaseline(at: number, isLast: boolean, lineAt: number): number {
  const [first, second] = isLast ? [at - 4, at - 26] : [at + 16, at - 8];
  return Math.abs(first - FIGURE_MIDDLE - lineAt) < FIGURE_ROOM ? second : first;
}

/** Room, voice and what is left of both; how deep it goes at each frequency, to drag. */
export function NoisePicture({ picture, depthDb, curve, width, height, onSet }: Props) {
  const { colours } = useTheme();
  const gesture = useRef(newGesture());
  const bottom = height - MARGINS.bottom;
  const depth = linear([0, MOST_DB], [MARGINS.top + 6, bottom]);
  const { freqs_hz: freqs } = picture.spectrum;
  const depths = picture.depth_db ?? freqs.map(() => depthDb);
  const points = curve.length > 0
    ? curve.map((p) => ({ freqHz: Number(p.freq_hz), depthDb: Number(p.depth_db) }))
    : OCTAVES_HZ.filter((hz) => hz <= (freqs.at(-1) ?? 0)).map((freqHz) => ({ freqHz, depthDb }));
  const set = (index: number, to: number, merge?: string) => {
    const depthOf = Math.min(MOST_DB, Math.max(0, Math.round(to * 2) / 2));
    onSet(points.map((p, i) => ({ freq_hz: p.freqHz, depth_db: i === index ? depthOf : p.depthDb })), merge);
  };
  const drag = (index: number) => ({
    onPointerDown: (event: PointerEvent<SVGGElement>) => {
      event.currentTarget.setPointerCapture(event.pointerId);
      gesture.current = newGesture();
    },
    onPointerMove: (event: PointerEvent<SVGGElement>) => {
      const frame = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
      if (frame && event.currentTarget.hasPointerCapture(event.pointerId)) set(index, depth.invert(event.clientY - frame.top), gesture.current);
    },
  });
  const keys = (index: number, now: number) => (event: KeyboardEvent) => {
    const turn = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 }[event.key];
    if (!turn) return;
    event.preventDefault();
    event.stopPropagation();
    set(index, now + turn, gesture.current);
  };
  const room = picture.spectrum.tone_before ? "tone" : picture.spectrum.noise_learned && "learned";
  const words = `Spectra of the passage and of ${room === "learned" ? "the noise learned" : "the room tone"}. ${curve.length > 0 ? `Depth: ${points.map((p) => `${formatDb(p.depthDb)} dB at ${formatHz(p.freqHz)}`).join(", ")}` : `${formatDb(depthDb)} dB deep everywhere`}`;
  const handle = (x: Scale, point: { freqHz: number; depthDb: number }, index: number) => (
    <g
      key={point.freqHz} tabIndex={0} role="slider" aria-orientation="vertical" aria-label={`Depth at ${formatHz(point.freqHz)}`} aria-valuemin={0} aria-valuemax={MOST_DB}
      aria-valuenow={point.depthDb} aria-valuetext={`${formatDb(point.depthDb)} dB`} {...drag(index)} onKeyDown={keys(index, point.depthDb)}
      onKeyUp={() => (gesture.current = newGesture())} style={{ cursor: "ns-resize" }}
    >
      <title>{`${formatHz(point.freqHz)}: ${formatDb(point.depthDb)} dB`}</title>
      <circle cx={x(point.freqHz)} cy={depth(point.depthDb)} r={13} fill="transparent" />
      <circle cx={x(point.freqHz)} cy={depth(point.depthDb)} r={6} fill={colours.card} stroke={colours.ink} strokeWidth={2} />
    </g>
  );
  return (
    <Box>
      <Box sx={{ display: "flex", justifyContent: "space-between", alignItems: "center", mb: 1, minHeight: 24 }}>
        <SpectrumLegend room={room} curve="Depth" />
        {curve.length > 0 && <Button size="small" variant="text" sx={{ minHeight: 24 }} onClick={() => onSet([])}>Same depth everywhere</Button>}
      </Box>
      <SpectrumPicture picture={picture} width={width} height={height} words={words} live>
        {(x) => (
          <>
            {[0, 20, 40].map((db) => (
              <text key={db} x={width - 4} y={figureBaseline(depth(db), db === MOST_DB, depth(depths.at(-1) ?? depthDb))} fontSize={12} fill={colours.ink} textAnchor="end" stroke={colours.card} strokeWidth={3} paintOrder="stroke">{db === 0 ? "0" : `−${db}`}</text>
            ))}
            <path d={linePath(freqs, depths, x, depth)} fill="none" stroke={colours.ink} strokeWidth={2.4} />
            {points.map((p, i) => handle(x, p, i))}
          </>
        )}
      </SpectrumPicture>
    </Box>
  );
}
