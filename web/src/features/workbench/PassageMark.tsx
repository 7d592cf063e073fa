import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import type { SystemStyleObject } from "@mui/system";
import { useRef, type ReactNode } from "react";

import { formatTime } from "../../pictures/figures";
import type { Placing } from "./mirrorPlaces";
import { checkedPassage, type Held } from "../live";
import type { TimeSpan } from "./mirrorView";

interface Props {
  passage: TimeSpan;
  durationS: number;
  place: Placing;
  /** Pixels from the top to the time axis, and its height. */
  axisTop: number;
  axis: number;
  onMove: (passage: TimeSpan) => void;
}


const KEY_STEP_S = 0.25;

/** The passage that loops: brackets, and grips on the axis to move its edges or the whole. */
export function PassageMark({ passage, durationS, place, axisTop, axis, onMove }: Props) {
  const { colours } = useTheme();
  const [left, right] = [place.x(passage.startS), place.x(passage.endS)];
  const perPixelS = (passage.endS - passage.startS) / Math.max(1, right - left);
  const shared = { passage, durationS, perPixelS, onMove };
  const bracket = (side: "left" | "right", x: number) => (
    <Box sx={{ position: "absolute", left: side === "left" ? x : x - 6, top: 0, bottom: 0, width: 6, border: `2px solid ${colours.ink}`, [side === "left" ? "borderRight" : "borderLeft"]: "none", pointerEvents: "none" }} />
  );
  const grip = (held: "startS" | "endS", x: number, name: string) => (
    <Grip
      {...shared} held={held} name={name} words={formatTime(passage[held])}
      sx={{ position: "absolute", left: x - 12, top: axisTop - 1, width: 24, height: axis + 2, cursor: "ew-resize", zIndex: 3, display: "grid", placeItems: "center", touchAction: "none" }}
    >
      <Box sx={{ width: 7, height: 15, borderRadius: "3px", backgroundColor: colours.ink }} />
    </Grip>
  );
  return (
    <>
      {bracket("left", left)}
      {bracket("right", right)}
      <Grip
        {...shared} held="both" name="Passage" words={`${formatTime(passage.startS)} to ${formatTime(passage.endS)}`}
        sx={{
          position: "absolute", left: left + 12, width: Math.max(0, right - left - 24), top: axisTop, height: axis, cursor: "grab", zIndex: 2,
          textAlign: "center", fontSize: 12, fontWeight: 600, lineHeight: `${axis}px`, overflow: "hidden", whiteSpace: "nowrap", touchAction: "none",
        }}
      >
        <span style={{ backgroundColor: colours.card, padding: "0 6px" }}>Passage {(passage.endS - passage.startS).toFixed(1)} s</span>
      </Grip>
      {grip("startS", left, "Start of the passage")}
      {grip("endS", right, "End of the passage")}
    </>
  );
}

interface GripProps {
  passage: TimeSpan;
  durationS: number;
  perPixelS: number;
  held: Held;
  name: string;
  words: string;
  sx: SystemStyleObject;
  onMove: (passage: TimeSpan) => void;
  children: ReactNode;
}

/** A part of the passage to drag, or to move by arrow keys. */
function Grip({ passage, durationS, perPixelS, held, name, words, sx, onMove, children }: GripProps) {
  const from = useRef<{ x: number; passage: TimeSpan } | null>(null);
  const shifted = (start: TimeSpan, byS: number) =>
    checkedPassage({ startS: start.startS + (held === "endS" ? 0 : byS), endS: start.endS + (held === "startS" ? 0 : byS) }, durationS, held);
  return (
    <Box
      role="slider" tabIndex={0} aria-label={name} aria-valuemin={0} aria-valuemax={durationS} aria-valuenow={held === "endS" ? passage.endS : passage.startS} aria-valuetext={words}
      onPointerDown={(event) => {
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
        from.current = { x: event.clientX, passage };
      }}
      onPointerMove={(event) => {
        if (!from.current || !event.currentTarget.hasPointerCapture(event.pointerId)) return;
        event.stopPropagation();
        onMove(shifted(from.current.passage, (event.clientX - from.current.x) * perPixelS));
      }}
      onPointerUp={(event) => {
        event.stopPropagation();
        from.current = null;
      }}
      onKeyDown={(event) => {
        const turn = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
        if (!turn) return;
        event.preventDefault();
        event.stopPropagation();
        onMove(shifted(passage, turn * KEY_STEP_S));
      }}
      sx={sx}
    >
      {children}
    </Box>
  );
}
