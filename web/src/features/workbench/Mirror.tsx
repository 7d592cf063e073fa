import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import { useTheme } from "@mui/material/styles";
import { useEffect, useRef, useState, type PointerEvent } from "react";

import type { Overview } from "../../api/types";
import { keptStretches, type Cut } from "../../audio/cutTimes";
import type { Player } from "../../audio/player";
import { formatTime } from "../../pictures/figures";
import { UndoIcon } from "../../pictures/icons";
import { columns, drawWaveform, FLOOR_DB, sharpContext, type Scale } from "../../pictures/waveform";
import { HEAD_LEFT } from "./levelGeometry";
import { useWidth } from "./useWidth";

export interface TimeSpan {
  startS: number;
  endS: number;
}

interface Props {
  durationS: number;
  before: Overview | undefined;
  after: Overview | undefined;
  /** After is of an older chain. */
  outdated: boolean;
  scale: Scale;
  clippedAtS: readonly number[];
  roomTone: (TimeSpan & { found: boolean }) | null;
  selection: TimeSpan | null;
  onSelect: (span: TimeSpan | null) => void;
  /** Spans left out now, and those that were when after was made. */
  cuts: readonly Cut[];
  afterCuts: readonly Cut[];
  onTakeBack: (cut: Cut) => void;
  player: Player;
}

const HEIGHT = 164;
const AXIS = 22;
const HALF = (HEIGHT - AXIS) / 2;
const LEAST_DRAG_PX = 4;

/** One time axis in the middle, before above it, after mirrored below. */
export function Mirror(props: Props) {
  const { durationS, before, after, outdated, scale, clippedAtS, roomTone, selection, cuts, afterCuts, player } = props;
  const { colours } = useTheme();
  const [room, ref] = useWidth(1104);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [dragFrom, setDragFrom] = useState<number | null>(null);
  const width = Math.max(100, room - HEAD_LEFT);
  const x = (timeS: number) => (timeS / durationS) * width;

  useEffect(() => {
    const context = canvas.current && sharpContext(canvas.current, width, HEIGHT);
    if (!context) return;
    context.clearRect(0, 0, width, HEIGHT);
    const count = Math.round(width / 3);
    const box = { left: 0, width, height: HALF - 1 };
    if (before) {
      const shape = columns(before, 0, durationS, count);
      drawWaveform(context, shape, { ...box, axis: HALF, direction: -1 }, colours.before, scale);
    }
    if (after) {
      context.save();
      if (outdated) context.globalAlpha = 0.5;
      for (const kept of keptStretches(afterCuts, durationS)) {
        const lengthS = kept.endS - kept.startS;
        const stretch = { left: (kept.startS / durationS) * width, width: (lengthS / durationS) * width, height: HALF - 1 };
        const shape = columns(after, kept.leftS, kept.leftS + lengthS, Math.max(1, Math.round(stretch.width / 3)));
        drawWaveform(context, shape, { ...stretch, axis: HALF + AXIS, direction: 1 }, colours.after, scale);
      }
      context.restore();
    }
    context.fillStyle = colours.fail;
    for (const at of clippedAtS) context.fillRect((at / durationS) * width - 1, 0, 2, 6);
  }, [before, after, afterCuts, outdated, durationS, width, scale, clippedAtS, colours]);

  const timeAt = (event: PointerEvent<HTMLElement>) => {
    const rect = event.currentTarget.getBoundingClientRect();
    return Math.min(durationS, Math.max(0, ((event.clientX - rect.left) / rect.width) * durationS));
  };
  const span = (a: number, b: number): TimeSpan => ({ startS: Math.min(a, b), endS: Math.max(a, b) });
  const onPointerDown = (event: PointerEvent<HTMLElement>) => {
    if (event.button !== 0) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    setDragFrom(timeAt(event));
  };
  const isDrag = (event: PointerEvent<HTMLElement>, from: number) =>
    Math.abs(x(timeAt(event)) - x(from)) >= LEAST_DRAG_PX;
  const onPointerMove = (event: PointerEvent<HTMLElement>) => {
    if (dragFrom !== null && isDrag(event, dragFrom)) props.onSelect(span(dragFrom, timeAt(event)));
  };
  const onPointerUp = (event: PointerEvent<HTMLElement>) => {
    if (dragFrom !== null && !isDrag(event, dragFrom)) {
      player.seek(timeAt(event));
      props.onSelect(null);
    }
    setDragFrom(null);
  };

  return (
    <Box ref={ref} component="section" aria-label="Mirror: before above, after below" sx={{ position: "relative", height: HEIGHT }}>
      <Ruler scale={scale} hasAfter={after !== undefined} />
      <Box
        data-testid="mirror"
        onPointerDown={onPointerDown} onPointerMove={onPointerMove} onPointerUp={onPointerUp}
        onPointerCancel={() => setDragFrom(null)}
        sx={{
          position: "absolute", left: HEAD_LEFT, top: 0, width, height: HEIGHT, cursor: "text",
          touchAction: "none", borderTop: `1px solid ${colours.rule}`, borderBottom: `1px solid ${colours.rule}`,
        }}
      >
        {roomTone && (
          <Box sx={{ position: "absolute", left: x(roomTone.startS), width: x(roomTone.endS - roomTone.startS), top: 0, bottom: 0, backgroundColor: colours.room, opacity: 0.1 }} />
        )}
        {selection && (
          <Box
            sx={{
              position: "absolute", left: x(selection.startS), width: Math.max(2, x(selection.endS - selection.startS)),
              top: 0, bottom: 0, backgroundColor: colours.card, borderLeft: `2px solid ${colours.ink}`,
              borderRight: `2px solid ${colours.ink}`,
            }}
          />
        )}
        <canvas
          ref={canvas} role="img" style={{ position: "relative", width, height: HEIGHT, display: "block" }}
          aria-label={`Waveform, ${formatTime(durationS)}${after ? ", before above and after below" : ", before"}`}
        />
        <TimeAxis durationS={durationS} width={width} />
        {roomTone && (
          <Box
            sx={{
              position: "absolute", top: HALF + 2, height: AXIS - 4, left: x(roomTone.startS),
              width: Math.max(72, x(roomTone.endS - roomTone.startS)), borderRadius: 1, fontSize: 12, fontWeight: 600,
              textAlign: "center", lineHeight: `${AXIS - 4}px`, color: colours.onInk, whiteSpace: "nowrap",
              backgroundColor: colours.room, pointerEvents: "none", overflow: "hidden",
              ...(roomTone.found && {
                backgroundColor: colours.paper, color: colours.room, border: `1px dashed ${colours.room}`, lineHeight: `${AXIS - 6}px`,
              }),
            }}
          >
            {roomTone.found ? "Found quiet" : "Room tone"}
          </Box>
        )}
        {cuts.map((cut) => (
          <CutMark
            key={cut.start_s} cut={cut} left={x(cut.start_s)} width={x(cut.end_s - cut.start_s)}
            onTakeBack={() => props.onTakeBack(cut)}
          />
        ))}
        <Playhead player={player} durationS={durationS} width={width} />
      </Box>
    </Box>
  );
}

/** A span left out: hatched, with its way back on the axis. */
function CutMark({ cut, left, width, onTakeBack }: { cut: Cut; left: number; width: number; onTakeBack: () => void }) {
  const { colours } = useTheme();
  const words = `Cut from ${formatTime(cut.start_s)} to ${formatTime(cut.end_s)}`;
  return (
    <Box sx={{ position: "absolute", left, width: Math.max(2, width), top: 0, bottom: 0, pointerEvents: "none" }}>
      <Box
        data-testid="cut"
        sx={{
          position: "absolute", inset: 0, opacity: 0.85,
          background: `repeating-linear-gradient(135deg, ${colours.paper} 0 6px, ${colours.pith} 6px 9px)`,
        }}
      />
      <ButtonBase
        aria-label={`Take back the ${words.toLowerCase()}`} title={`${words}; press to take it back`}
        onPointerDown={(event) => event.stopPropagation()} onClick={onTakeBack}
        sx={{
          position: "absolute", top: HALF - 1, left: Math.max(0, width / 2 - 12), width: 24, height: 24, borderRadius: "50%",
          backgroundColor: colours.card, border: `1px solid ${colours.inputBorder}`, pointerEvents: "auto",
        }}
      >
        <UndoIcon size={14} />
      </ButtonBase>
    </Box>
  );
}

function Ruler({ scale, hasAfter }: { scale: Scale; hasAfter: boolean }) {
  const { colours } = useTheme();
  const marks = scale === "dB" ? [0, -24, -48] : [1, 0.5];
  const offset = (mark: number) => HALF * (1 - (scale === "dB" ? 1 - mark / FLOOR_DB : mark));
  const label = (mark: number) => String(mark).replace("-", "\u2212");
  return (
    <svg width={HEAD_LEFT - 4} height={HEIGHT} aria-hidden="true" style={{ position: "absolute", left: 0, top: 0 }}>
      {marks.map((mark) => (
        <g key={mark} fontSize={12} fill={colours.muted} textAnchor="end">
          <text x={HEAD_LEFT - 10} y={Math.max(10, offset(mark) + 4)}>{label(mark)}</text>
          <text x={HEAD_LEFT - 10} y={Math.min(HEIGHT - 2, HEIGHT - offset(mark) + 4)}>{label(mark)}</text>
        </g>
      ))}
      {scale === "dB" && (
        <text x={HEAD_LEFT - 10} y={HALF + 15} fontSize={12} fill={colours.muted} textAnchor="end">dB</text>
      )}
      <text x={0} y={14} fontSize={15} fontWeight={600} fill={colours.beforeText} fontFamily="Fraunces Variable">Before</text>
      <text x={0} y={HEIGHT - 4} fontSize={15} fontWeight={600} fill={hasAfter ? colours.afterText : colours.muted} fontFamily="Fraunces Variable">After</text>
    </svg>
  );
}

function TimeAxis({ durationS, width }: { durationS: number; width: number }) {
  const { colours } = useTheme();
  const steps = [1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600];
  const step = steps.find((s) => (s / durationS) * width >= 90) ?? 3600;
  const marks = Array.from({ length: Math.floor(durationS / step) }, (_, i) => (i + 1) * step);
  return (
    <svg width={width} height={AXIS} aria-hidden="true" style={{ position: "absolute", left: 0, top: HALF, pointerEvents: "none" }}>
      {marks.map((mark) => (
        <text key={mark} x={(mark / durationS) * width} y={15} fontSize={12} fill={colours.muted} textAnchor="middle">
          {formatTime(mark).replace(/\.0$/, "")}
        </text>
      ))}
    </svg>
  );
}

/** Drawn outside React at the screen's own pace, so that it runs smoothly. */
function Playhead({ player, durationS, width }: { player: Player; durationS: number; width: number }) {
  const { colours } = useTheme();
  const line = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let frame = 0;
    const draw = () => {
      const left = (player.timeNowS / durationS) * width;
      if (line.current) line.current.style.transform = `translateX(${left}px)`;
      frame = requestAnimationFrame(draw);
    };
    draw();
    return () => cancelAnimationFrame(frame);
  }, [player, durationS, width]);
  return (
    <Box
      ref={line} data-testid="playhead"
      sx={{ position: "absolute", left: -1, top: 0, width: 2, height: HEIGHT, backgroundColor: colours.ink, pointerEvents: "none" }}
    />
  );
}
