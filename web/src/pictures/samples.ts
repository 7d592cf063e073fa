/** Single samples: the waveform with its sign, a dot for each where there is room. */

import type { Overview } from "../api/types";

const DOTS_FROM_PX = 5;

export interface SampleBox {
  left: number;
  top: number;
  width: number;
  height: number;
}

/** Draw the samples between two times; full scale fills the box. */
export function drawSamples(
  context: CanvasRenderingContext2D,
  overview: Overview,
  fromS: number,
  toS: number,
  box: SampleBox,
  colour: string,
): void {
  const apartPx = (overview.bin_s / (toS - fromS)) * box.width;
  const first = Math.max(0, Math.floor((fromS - overview.start_s) / overview.bin_s) - 1);
  const last = Math.min(overview.high.length, Math.ceil((toS - overview.start_s) / overview.bin_s) + 2);
  const place = (i: number): [number, number] => [
    box.left + ((overview.start_s + i * overview.bin_s - fromS) / (toS - fromS)) * box.width,
    box.top + (box.height / 2) * (1 - (overview.high[i] ?? 0)),
  ];
  context.save();
  context.beginPath();
  context.rect(box.left, box.top, box.width, box.height);
  context.clip();
  context.strokeStyle = colour;
  context.fillStyle = colour;
  context.lineWidth = 1.25;
  context.beginPath();
  for (let i = first; i < last; i += 1) context.lineTo(...place(i));
  context.stroke();
  if (apartPx >= DOTS_FROM_PX) {
    for (let i = first; i < last; i += 1) {
      const [x, y] = place(i);
      context.beginPath();
      context.arc(x, y, 2.2, 0, 2 * Math.PI);
      context.fill();
    }
  }
  context.restore();
}
