import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import { useEffect, useRef, type KeyboardEvent, type PointerEvent } from "react";

import type { Overview } from "../../api/types";
import { formatTime } from "../../pictures/figures";
import { columns, drawWaveform, sharpContext } from "../../pictures/waveform";
import { moved, type TimeSpan } from "./mirrorView";

const HEIGHT = 26;

interface Props {
  overview: Overview | undefined;
  durationS: number;
  width: number;
  view: TimeSpan;
  onView: (view: TimeSpan) => void;
}

/** The whole recording, small, with what the mirror shows of it; drag or arrows move that along. */
export function OverviewStrip({ overview, durationS, width, view, onView }: Props) {
  const { colours } = useTheme();
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const context = canvas.current && sharpContext(canvas.current, width, HEIGHT);
    if (!context || !overview) return;
    context.clearRect(0, 0, width, HEIGHT);
    const shape = columns(overview, 0, durationS, Math.round(width / 2));
    drawWaveform(context, shape, { left: 0, width, axis: HEIGHT, height: HEIGHT - 2, direction: -1 }, colours.before, "dB");
  }, [overview, durationS, width, colours]);
  const lengthS = view.endS - view.startS;
  const centre = (event: PointerEvent<HTMLElement>) => {
    const rect = event.currentTarget.getBoundingClientRect();
    const atS = ((event.clientX - rect.left) / rect.width) * durationS;
    onView(moved(view, atS - lengthS / 2 - view.startS, durationS));
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const by = { ArrowLeft: -0.25, ArrowRight: 0.25, Home: -1e9, End: 1e9 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    onView(moved(view, by * lengthS, durationS));
  };
  return (
    <Box
      role="slider" tabIndex={0} aria-label="What is shown of the whole" aria-valuemin={0} aria-valuemax={durationS}
      aria-valuenow={view.startS} aria-valuetext={`${formatTime(view.startS, 2)} to ${formatTime(view.endS, 2)}`}
      onKeyDown={onKeyDown}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        centre(event);
      }}
      onPointerMove={(event) => event.buttons === 1 && centre(event)}
      sx={{ position: "relative", height: HEIGHT, width, mb: 1, cursor: "ew-resize", touchAction: "none", backgroundColor: colours.pith, borderRadius: 1 }}
    >
      <canvas ref={canvas} aria-hidden="true" style={{ width, height: HEIGHT, display: "block" }} />
      <Box
        sx={{
          position: "absolute", top: 0, bottom: 0, left: (view.startS / durationS) * width,
          width: Math.max(6, (lengthS / durationS) * width), border: `2px solid ${colours.ink}`, borderRadius: 1,
        }}
      />
    </Box>
  );
}
