/** The stretch of time that the mirror shows. Pure. */

export interface TimeSpan {
  startS: number;
  endS: number;
}

/** Shorter stretches show nothing more: some thirty samples. */
const LEAST_S = 0.0007;

const within = (startS: number, lengthS: number, durationS: number): TimeSpan => {
  const start = Math.min(Math.max(0, startS), Math.max(0, durationS - lengthS));
  return { startS: start, endS: start + lengthS };
};

/** Closer by `factor` (below one: wider); what is at `atS` stays where it is. */
export function zoomed(view: TimeSpan, atS: number, factor: number, durationS: number): TimeSpan {
  const lengthS = view.endS - view.startS;
  const nextS = Math.min(durationS, Math.max(Math.min(LEAST_S, durationS), lengthS / factor));
  return within(atS - ((atS - view.startS) / lengthS) * nextS, nextS, durationS);
}

/** Later by `byS` (below zero: earlier), within the recording. */
export const moved = (view: TimeSpan, byS: number, durationS: number): TimeSpan =>
  within(view.startS + byS, view.endS - view.startS, durationS);

/** Moved just so far that `atS` is seen. */
export function showing(view: TimeSpan, atS: number, durationS: number): TimeSpan {
  if (atS >= view.startS && atS <= view.endS) return view;
  return moved(view, atS - view.startS - (view.endS - view.startS) / 10, durationS);
}

/** Whether everything is shown. */
export const isWhole = (view: TimeSpan, durationS: number) => view.endS - view.startS >= durationS * 0.9999;

const STEPS_S = [0.0001, 0.0002, 0.0005, 0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600];

/** Times to write on the axis, at least `leastPx` apart, and how many decimals they need. */
export function axisMarks(view: TimeSpan, width: number, leastPx: number): { atS: number[]; decimals: number } {
  const lengthS = view.endS - view.startS;
  const step = STEPS_S.find((s) => (s / lengthS) * width >= leastPx) ?? 3600;
  const first = Math.floor(view.startS / step) + 1;
  const count = Math.max(0, Math.ceil(view.endS / step) - first);
  return {
    atS: Array.from({ length: count }, (_, i) => (first + i) * step),
    decimals: step >= 1 ? 0 : Math.ceil(-Math.log10(step) - 1e-9),
  };
}
