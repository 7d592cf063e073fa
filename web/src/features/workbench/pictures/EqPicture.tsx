import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import { useRef, type KeyboardEvent, type PointerEvent } from "react";

import type { StepPicture } from "../../../api/types";
import { formatChange, formatDb, formatHz } from "../../../pictures/figures";
import { MARGINS } from "../../../pictures/Plot";
import { linear, linePath, type Scale } from "../../../pictures/scales";
import { newGesture } from "../gestures";
import { afterHunt, BAND_WORDS, bandWords, cutAt, hasGain, hunting, moved, narrower, type Band } from "./bands";
import { SpectrumLegend, SpectrumPicture } from "./SpectrumPicture";

interface Props {
  picture: StepPicture;
  bands: Band[];
  width: number;
  height: number;
  /** The band that is open in the list beside. */
  chosen: number | null;
  onChoose: (index: number | null) => void;
  onSet: (bands: Band[], gesture?: string) => void;
}

const KEY_STEPS_PER_OCT = 24;
const NARROWER = 1.15;

/** Response with handles to drag, over the spectra into and out of the EQ. */
export function EqPicture({ picture, bands, width, height, chosen, onChoose, onSet }: Props) {
  const { colours } = useTheme();
  const gesture = useRef(newGesture());
  const held = useRef(false);
  const bottom = height - MARGINS.bottom;
  const response = picture.response_db ?? [];
  const reach = Math.max(12, Math.ceil(Math.max(...bands.map((b) => (hasGain(b.type) ? Math.abs(b.gain_db) : 0)), 0) / 6) * 6);
  const gain = linear([-reach, reach], [bottom, MARGINS.top]);
  const set = (index: number, band: Band, merge: string) => onSet(bands.map((b, i) => (i === index ? band : b)), merge);
  const heightOf = (band: Band) => (hasGain(band.type) ? band.gain_db : 0);

  const drag = (index: number, x: Scale) => ({
    onPointerDown: (event: PointerEvent<SVGGElement>) => {
      event.currentTarget.setPointerCapture(event.pointerId);
      event.currentTarget.focus();
      if (!held.current) gesture.current = newGesture();
      onChoose(index);
    },
    onPointerMove: (event: PointerEvent<SVGGElement>) => {
      const band = bands[index];
      const frame = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
      if (!band || !frame || !event.currentTarget.hasPointerCapture(event.pointerId)) return;
      const to = moved(band, x.invert(event.clientX - frame.left), gain.invert(event.clientY - frame.top));
      set(index, held.current ? hunting(to) : to, gesture.current);
    },
  });
  const hunt = (index: number, on: boolean) => {
    const band = bands[index];
    if (!band || held.current === on) return;
    held.current = on;
    if (on) gesture.current = newGesture();
    set(index, on ? hunting(band) : afterHunt(band), gesture.current);
    if (!on) gesture.current = newGesture();
  };
  const keys = (index: number) => (event: KeyboardEvent) => {
    const band = bands[index];
    if (!band) return;
    const turn = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    const raise = { ArrowUp: 0.5, ArrowDown: -0.5 }[event.key];
    const narrow = { "+": NARROWER, "]": NARROWER, "-": 1 / NARROWER, "[": 1 / NARROWER }[event.key];
    if (event.key.toLowerCase() === "h") hunt(index, true);
    else if (turn) set(index, { ...band, freq_hz: stepped(band.freq_hz, turn) }, gesture.current);
    else if (raise && !held.current) set(index, moved(band, band.freq_hz, band.gain_db + raise), gesture.current);
    else if (narrow) set(index, narrower(band, narrow), gesture.current);
    else if (event.key === "Delete" || event.key === "Backspace") onSet(bands.filter((_, i) => i !== index));
    else return;
    event.preventDefault();
    event.stopPropagation();
  };

  const words = `EQ curve over the spectra of the passage. ${bands.map((b, i) => `Band ${i + 1}: ${BAND_WORDS[b.type] ?? b.type}, ${bandWords(b)}`).join("; ")}`;
  return (
    <Box>
      <Box sx={{ display: "flex", justifyContent: "flex-end", mb: 1 }}>
        <SpectrumLegend curve="Curve" />
      </Box>
      <SpectrumPicture picture={picture} width={width} height={height} words={words} live>
        {(x) => (
          <>
            {[reach, reach / 2, 0, -reach / 2, -reach].map((db) => (
              <text key={db} x={width - 4} y={gain(db) + (db === reach ? 12 : db === -reach ? -4 : 4)} fontSize={12} fill={colours.ink} textAnchor="end">
                {formatChange(db).replace(".0", "")}
              </text>
            ))}
            <line x1={MARGINS.left} x2={width - MARGINS.right} y1={gain(0)} y2={gain(0)} stroke={colours.muted} strokeWidth={0.8} />
            <path d={linePath(picture.spectrum.freqs_hz, response.map((db) => Math.max(-reach, Math.min(reach, db))), x, gain)} fill="none" stroke={colours.ink} strokeWidth={2.6} strokeLinejoin="round" />
            {(picture.resonances ?? []).map((peak) => (
              <g key={peak.freq_hz}>
                <title>{`Stands out by ${formatDb(peak.over_db)} dB at ${formatHz(peak.freq_hz)}; press to cut`}</title>
                <line x1={x(peak.freq_hz)} x2={x(peak.freq_hz)} y1={MARGINS.top + 14} y2={bottom} stroke={colours.caution} strokeDasharray="2 4" />
                <path
                  d={`M${x(peak.freq_hz)} ${MARGINS.top}l7 7l-7 7l-7 -7Z`} fill={colours.card} stroke={colours.caution} strokeWidth={1.8}
                  style={{ cursor: "pointer" }} onClick={() => onSet([...bands, cutAt(peak.freq_hz, peak.over_db)])}
                />
              </g>
            ))}
            {bands.map((band, index) => (
              <g
                key={index} tabIndex={0} role="slider" aria-label={`${BAND_WORDS[band.type] ?? band.type}, band ${index + 1}`}
                aria-valuemin={20} aria-valuemax={20000} aria-valuenow={band.freq_hz} aria-valuetext={bandWords(band)}
                {...drag(index, x)} onKeyDown={keys(index)} onFocus={() => onChoose(index)}
                onKeyUp={(event) => {
                  if (event.key.toLowerCase() === "h") hunt(index, false);
                  else if (!held.current) gesture.current = newGesture();
                }}
                onBlur={() => hunt(index, false)}
                // H hunts under the pointer as well; a field that is being typed in keeps the focus.
                onPointerEnter={(event) => document.activeElement?.matches("input, textarea, select") || event.currentTarget.focus({ preventScroll: true })}
                onWheel={(event) => set(index, narrower(band, event.deltaY < 0 ? NARROWER : 1 / NARROWER), gesture.current)}
                style={{ cursor: "grab", outlineOffset: 4 }} opacity={band.enabled ? 1 : 0.45}
              >
                <circle cx={x(band.freq_hz)} cy={gain(heightOf(band))} r={16} fill="transparent" />
                <circle
                  cx={x(band.freq_hz)} cy={gain(heightOf(band))} r={11}
                  fill={chosen === index ? colours.ink : colours.card} stroke={colours.ink} strokeWidth={1.8}
                />
                <path
                  transform={`translate(${x(band.freq_hz)} ${gain(heightOf(band))})`} d={SHAPES[band.type] ?? ""} fill="none"
                  stroke={chosen === index ? colours.onInk : colours.ink} strokeWidth={1.6} strokeLinecap="round"
                />
                {chosen === index && (
                  <text x={x(band.freq_hz)} y={gain(heightOf(band)) - 17} fontSize={12} fontWeight={650} fill={colours.ink} textAnchor="middle" stroke={colours.card} strokeWidth={3} paintOrder="stroke">
                    {formatHz(band.freq_hz)}
                  </text>
                )}
              </g>
            ))}
          </>
        )}
      </SpectrumPicture>
    </Box>
  );
}

/** Shapes of bands inside their handles. */
const SHAPES: Record<string, string> = {
  high_pass: "M-6 5C-3 4 -3 -3 1 -3H6", low_pass: "M6 5C3 4 3 -3 -1 -3H-6", low_shelf: "M-6 -3H-2C1 -3 -1 3 2 3H6",
  high_shelf: "M-6 3H-2C1 3 -1 -3 2 -3H6", bell: "M-6 3C-2 3 -2 -4 0 -4C2 -4 2 3 6 3", notch: "M-6 -3H-2L0 5L2 -3H6",
};

function stepped(freqHz: number, turn: number): number {
  const next = freqHz * 2 ** (turn / KEY_STEPS_PER_OCT);
  const rounded = Math.round(next);
  return Math.min(20000, Math.max(20, rounded === Math.round(freqHz) ? rounded + turn : rounded));
}
