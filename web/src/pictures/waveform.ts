/** Drawing of waveforms: a peak outline around the average body, in dB or linear, up or down. */

import type { Overview } from "../api/types";

export type Scale = "dB" | "linear";
export const FLOOR_DB = -72;

/** Height of a magnitude as a share of the room, 0..1. */
export function heightOf(magnitude: number, scale: Scale): number {
  if (scale === "linear") return Math.min(1, magnitude);
  if (magnitude <= 0) return 0;
  const db = 20 * Math.log10(magnitude);
  return Math.min(1, Math.max(0, 1 - db / FLOOR_DB));
}

export interface Column {
  peak: number;
  average: number;
}

/** Peak (maximum) and average (power mean) of the bins that fall on each of `count` columns. */
export function columns(
  overview: Overview,
  fromS: number,
  toS: number,
  count: number,
): Column[] {
  const result: Column[] = [];
  const perColumn = (toS - fromS) / count;
  for (let i = 0; i < count; i += 1) {
    const start = (fromS + i * perColumn - overview.start_s) / overview.bin_s;
    const first = Math.max(0, Math.floor(start));
    const last = Math.min(
      overview.rms.length,
      Math.max(first + 1, Math.floor(start + perColumn / overview.bin_s)),
    );
    let peak = 0;
    let power = 0;
    for (let k = first; k < last; k += 1) {
      peak = Math.max(peak, overview.high[k] ?? 0, -(overview.low[k] ?? 0));
      power += (overview.rms[k] ?? 0) ** 2;
    }
    result.push({ peak, average: last > first ? Math.sqrt(power / (last - first)) : 0 });
  }
  return result;
}

export interface WaveformBox {
  left: number;
  width: number;
  /** Where the time axis is; the waveform grows away from it. */
  axis: number;
  height: number;
  direction: 1 | -1;
}

/** Draw one side of the mirror. */
export function drawWaveform(
  context: CanvasRenderingContext2D,
  shape: Column[],
  box: WaveformBox,
  colour: string,
  scale: Scale,
): void {
  const step = box.width / shape.length;
  const trace = (value: (column: Column) => number) => {
    context.beginPath();
    context.moveTo(box.left, box.axis);
    shape.forEach((column, i) => {
      const y = box.axis + box.direction * box.height * heightOf(value(column), scale);
      context.lineTo(box.left + (i + 0.5) * step, y);
    });
    context.lineTo(box.left + box.width, box.axis);
    context.closePath();
  };
  context.fillStyle = colour;
  context.strokeStyle = colour;
  trace((c) => c.peak);
  context.globalAlpha = 0.2;
  context.fill();
  context.globalAlpha = 0.9;
  context.lineWidth = 0.75;
  context.stroke();
  trace((c) => c.average);
  context.globalAlpha = 0.77;
  context.fill();
  context.globalAlpha = 1;
}

/** Make a canvas sharp on the screen it is on; returns its context in CSS pixels. */
export function sharpContext(
  canvas: HTMLCanvasElement,
  width: number,
  height: number,
): CanvasRenderingContext2D | null {
  const ratio = window.devicePixelRatio || 1;
  canvas.width = Math.round(width * ratio);
  canvas.height = Math.round(height * ratio);
  const context = canvas.getContext("2d");
  context?.setTransform(ratio, 0, 0, ratio, 0, 0);
  return context;
}
