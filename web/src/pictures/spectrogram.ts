/** Spectrograms: levels as shades between the paper and the colour of the side they belong to. */

import type { Spectrogram } from "../api/types";

const DARKEST_DB = -30;
const LIGHTEST_DB = -105;

/** Share of ink for a level, 0..1. */
export function shade(levelDb: number): number {
  return Math.min(1, Math.max(0, (levelDb - LIGHTEST_DB) / (DARKEST_DB - LIGHTEST_DB)));
}

const channels = (hex: string) => [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16));

/** Pixels of a spectrogram, lowest frequency in the first row; null where there is no canvas. */
export function spectrogramPixels(data: Spectrogram, paper: string, ink: string): HTMLCanvasElement | null {
  const canvas = document.createElement("canvas");
  const rows = data.freqs_hz.length;
  canvas.width = data.columns;
  canvas.height = rows;
  const context = canvas.getContext("2d");
  if (!context) return null;
  const [from, to] = [channels(paper), channels(ink)];
  const bytes = atob(data.values);
  const image = context.createImageData(data.columns, rows);
  for (let i = 0; i < bytes.length; i += 1) {
    const share = shade(data.floor_db + data.step_db * bytes.charCodeAt(i));
    for (let c = 0; c < 3; c += 1) {
      image.data[4 * i + c] = (from[c] ?? 0) + ((to[c] ?? 0) - (from[c] ?? 0)) * share;
    }
    image.data[4 * i + 3] = 255;
  }
  context.putImageData(image, 0, 0);
  return canvas;
}

/** Where a frequency lies, 0 at the lowest, 1 at the highest row. */
export function placeOf(freqHz: number, freqsHz: readonly number[]): number {
  const [low, high] = [freqsHz[0] ?? 1, freqsHz.at(-1) ?? 2];
  return Math.log(freqHz / low) / Math.log(high / low);
}
