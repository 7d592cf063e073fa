/** One side of the mirror on its canvas: as waveform, as single samples, or as spectrogram. */

import type { Overview, Spectrogram } from "../../api/types";
import type { Kept } from "../../audio/cutTimes";
import { drawSamples } from "../../pictures/samples";
import { columns, drawWaveform, type Scale } from "../../pictures/waveform";
import type { TimeSpan } from "./mirrorView";

export type Look = Scale | "spectrogram";

export interface SidePicture {
  overview: Overview | undefined;
  spectrogram: Spectrogram | undefined;
  pixels: HTMLCanvasElement | null;
  /** Stretches of the recording that it holds, and their times in it. */
  stretches: readonly Kept[];
  colour: string;
}

export interface SideBox {
  width: number;
  height: number;
  /** Where the time axis is; the picture grows away from it. */
  axis: number;
  direction: 1 | -1;
}

/** A column of the waveform is so wide. */
const COLUMN_PX = 3;

export function drawSide(
  context: CanvasRenderingContext2D, side: SidePicture, view: TimeSpan, box: SideBox, look: Look, sampleRateHz: number,
): void {
  const x = (timeS: number) => ((timeS - view.startS) / (view.endS - view.startS)) * box.width;
  for (const kept of side.stretches) {
    const startS = Math.max(kept.startS, view.startS);
    const endS = Math.min(kept.endS, view.endS);
    if (endS <= startS) continue;
    const fromS = startS - kept.startS + kept.leftS;
    const toS = fromS + endS - startS;
    const [left, width] = [x(startS), x(endS) - x(startS)];
    if (look === "spectrogram") {
      drawSpectrogram(context, side, fromS, toS, { ...box, left, width });
    } else if (side.overview) {
      const single = side.overview.bin_s * sampleRateHz < 1.5;
      if (single) {
        const top = box.direction < 0 ? box.axis - box.height : box.axis;
        drawSamples(context, side.overview, fromS, toS, { left, width, top, height: box.height }, side.colour);
      } else {
        const shape = columns(side.overview, fromS, toS, Math.max(1, Math.round(width / COLUMN_PX)));
        drawWaveform(context, shape, { ...box, left, width }, side.colour, look);
      }
    }
  }
}

function drawSpectrogram(
  context: CanvasRenderingContext2D, side: SidePicture, fromS: number, toS: number, box: SideBox & { left: number },
): void {
  const { spectrogram: data, pixels } = side;
  if (!data || !pixels) return;
  const perS = data.columns / (data.end_s - data.start_s);
  const sourceX = Math.max(0, (fromS - data.start_s) * perS);
  const sourceWidth = Math.min(data.columns, (toS - data.start_s) * perS) - sourceX;
  if (sourceWidth <= 0) return;
  context.save();
  // The lowest frequency lies at the axis on both sides.
  context.translate(box.left, box.axis);
  context.scale(1, box.direction);
  context.drawImage(pixels, sourceX, 0, sourceWidth, data.freqs_hz.length, 0, 0, box.width, box.height);
  context.restore();
}
