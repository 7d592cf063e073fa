import { useTheme } from "@mui/material/styles";
import { useState, type PointerEvent } from "react";

import type { TimeSeries } from "../../api/types";
import { formatDb, formatTime } from "../../pictures/figures";
import { MARGINS, Plot } from "../../pictures/Plot";
import { linear, linePath } from "../../pictures/scales";
import type { PassageSpan } from "../live";

interface Props {
  a: TimeSeries;
  b: TimeSeries;
  width: number;
  height: number;
  /** By so much b is drawn softer. */
  louderDb: number;
  /** What the target wants of the loudness of the whole. */
  target: { low: number | null; high: number | null } | null;
  /** A stretch that was dragged over; null when it cannot be zoomed. */
  onZoom: ((span: PassageSpan) => void) | null;
}

const SPAN_LU = 40;
const LEAST_PX = 6;

/** Momentary (thin) and short-term (thick) loudness over time, integrated as a level line. */
export function LoudnessPicture({ a, b, width, height, louderDb, target, onZoom }: Props) {
  const { colours } = useTheme();
  const [drag, setDrag] = useState<[number, number] | null>(null);
  const values = [a, b].flatMap((c, i) => c.momentary_lufs.flatMap((v) => (v === null ? [] : [v - (i === 1 ? louderDb : 0)])));
  const top = Math.ceil((Math.max(-60, ...values) + 2) / 10) * 10;
  const lengthS = Math.max(0.1, a.end_s - a.start_s);
  const x = linear([0, lengthS], [MARGINS.left, width - MARGINS.right]);
  const y = linear([top - SPAN_LU, top], [height - MARGINS.bottom, MARGINS.top]);
  const clipped = (v: number | null, by: number) => (v === null ? null : Math.max(top - SPAN_LU, v - by));
  const step = [1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 1200].find((s) => lengthS / s <= 9) ?? 3600;
  const xTicks = Array.from({ length: Math.floor(lengthS / step) + 1 }, (_, i) => ({ at: i * step, text: formatTime(a.start_s + i * step, 0) }));
  const yTicks = Array.from({ length: SPAN_LU / 10 + 1 }, (_, i) => ({ at: top - 10 * i, text: formatDb(top - 10 * i).replace(".0", "") }));
  const place = (event: PointerEvent) => event.nativeEvent.offsetX;
  const done = () => {
    if (drag && onZoom && Math.abs(drag[1] - drag[0]) > LEAST_PX) {
      const [from, to] = [...drag].sort((p, q) => p - q) as [number, number];
      const at = (px: number) => a.start_s + Math.min(lengthS, Math.max(0, x.invert(px)));
      onZoom({ startS: at(from), endS: at(to) });
    }
    setDrag(null);
  };
  const sides = [
    { timeSeries: a, colour: colours.before, by: 0, dash: "4 3" },
    { timeSeries: b, colour: colours.after, by: louderDb, dash: undefined },
  ];
  const words = `Loudness over time, LUFS. Before: integrated ${formatDb(a.integrated_lufs)}. After: integrated ${formatDb(b.integrated_lufs)}${louderDb === 0 ? "" : `, drawn ${formatDb(louderDb)} dB softer`}.`;
  return (
    <div
      onPointerDown={(e) => onZoom && setDrag([place(e), place(e)])} onPointerMove={(e) => drag && setDrag([drag[0], place(e)])}
      onPointerUp={done} onPointerLeave={() => setDrag(null)} style={{ cursor: onZoom ? "crosshair" : "default" }}
    >
      <Plot width={width} height={height} x={x} y={y} xTicks={xTicks} yTicks={yTicks} words={words}>
        {target && [target.low, target.high].map((v) => v !== null && v - louderDb <= top && v - louderDb >= top - SPAN_LU && (
          <line key={v} x1={MARGINS.left} x2={width - MARGINS.right} y1={y(v - louderDb)} y2={y(v - louderDb)} stroke={colours.pass} strokeWidth={1.5} strokeDasharray="7 4" />
        ))}
        {sides.map(({ timeSeries, colour, by, dash }) => {
          const times = timeSeries.momentary_lufs.map((_, i) => (i + 0.5) * timeSeries.step_s);
          return (
            <g key={colour}>
              <path d={linePath(times, timeSeries.momentary_lufs.map((v) => clipped(v, by)), x, y)} fill="none" stroke={colour} strokeWidth={1} opacity={0.45} />
              <path d={linePath(times, timeSeries.short_term_lufs.map((v) => clipped(v, by)), x, y)} fill="none" stroke={colour} strokeWidth={2.4} strokeDasharray={dash} />
            </g>
          );
        })}
        {sides.map(({ timeSeries, colour, by }) => {
          const whole = clipped(timeSeries.integrated_lufs, by);
          return whole !== null && (
            <text
              key={colour} x={width - MARGINS.right - 2} y={y(whole) + (colour === colours.before ? 14 : -5)} fontSize={12} fontWeight={650}
              fill={colour} textAnchor="end" stroke={colours.paper} strokeWidth={4} paintOrder="stroke"
            >
              {formatDb(timeSeries.integrated_lufs)}
            </text>
          );
        })}
        {drag && <rect x={Math.min(...drag)} width={Math.abs(drag[1] - drag[0])} y={MARGINS.top} height={height - MARGINS.top - MARGINS.bottom} fill={colours.ink} opacity={0.12} />}
      </Plot>
    </div>
  );
}
