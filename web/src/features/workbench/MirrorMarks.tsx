/** What lies over the mirror's picture: axis, spans, cuts, playhead, levels under the pointer. */

import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import { useTheme } from "@mui/material/styles";
import { useEffect, useRef } from "react";

import type { Overview } from "../../api/types";
import { toLeft, type Cut, type Insert, type Marker, type Shifts } from "../../audio/cutTimes";
import type { Playback } from "../../audio/playback";
import { formatDb, formatHz, formatTime } from "../../pictures/figures";
import { UndoIcon } from "../../pictures/icons";
import { placeOf } from "../../pictures/spectrogram";
import { columns, FLOOR_DB } from "../../pictures/waveform";
import type { Look } from "./drawSide";
import { HEAD_LEFT } from "./levelGeometry";
import { AXIS, clearOf, roomToneTag, type Pixels, type Placing, type ShownRoomTone } from "./mirrorPlaces";
import { axisMarks, type TimeSpan } from "./mirrorView";

/** Levels (or frequencies) at the left edge. */
export function Ruler({ place, look, hasAfter, freqsHz }: { place: Placing; look: Look; hasAfter: boolean; freqsHz: readonly number[] }) {
  const { colours } = useTheme();
  const marks =
    look === "dB" ? (place.height < 100 ? [0] : [0, -24, -48]).map((db) => ({ text: formatDb(db).replace(/\.0$/, ""), share: 1 - db / FLOOR_DB }))
    : look === "linear" ? [1, 0.5].map((v) => ({ text: String(v), share: v }))
    : freqsHz.length === 0 ? []
    : (place.height < 100 ? [1000] : [100, 1000, 8000]).map((hz) => ({ text: formatHz(hz).replace(/\s?(k?)Hz$/, "$1"), share: placeOf(hz, freqsHz) }));
  return (
    <svg width={HEAD_LEFT - 4} height={place.height} aria-hidden="true" style={{ position: "absolute", left: 0, top: 0 }}>
      {marks.map(({ text, share }) => (
        <g key={text} fontSize={12} fill={colours.muted} textAnchor="end">
          <text x={HEAD_LEFT - 10} y={Math.max(10, place.half * (1 - share) + 4)}>{text}</text>
          <text x={HEAD_LEFT - 10} y={Math.min(place.height - 2, place.height - place.half * (1 - share) + 4)}>{text}</text>
        </g>
      ))}
      {look !== "linear" && (
        <text x={HEAD_LEFT - 10} y={place.half + 15} fontSize={12} fill={colours.muted} textAnchor="end">{look === "dB" ? "dB" : "Hz"}</text>
      )}
      <text x={0} y={14} fontSize={15} fontWeight={600} fill={colours.beforeText} fontFamily="Fraunces Variable">Before</text>
      <text x={0} y={place.height - 4} fontSize={15} fontWeight={600} fill={hasAfter ? colours.afterText : colours.muted} fontFamily="Fraunces Variable">After</text>
    </svg>
  );
}

/** Times on the axis in the middle. */
export function TimeAxis({ view, place, tags }: { view: TimeSpan; place: Placing; tags: readonly Pixels[] }) {
  const { colours } = useTheme();
  const { atS, decimals } = axisMarks(view, place.width, 90);
  return (
    <svg width={place.width} height={AXIS} aria-hidden="true" style={{ position: "absolute", left: 0, top: place.half, pointerEvents: "none" }}>
      {clearOf(tags, atS, place).map((mark) => (
        <text key={mark} x={place.x(mark)} y={15} fontSize={12} fill={colours.muted} textAnchor="middle">
          {formatTime(mark, decimals)}
        </text>
      ))}
    </svg>
  );
}

interface RoomToneMarkProps {
  tone: ShownRoomTone;
  /** Of several, only one has room for its name. */
  isNamed: boolean;
  place: Placing;
  look: Look;
}

/** A stretch noise is learned from, on the axis. */
export function RoomToneMark({ tone, isNamed, place, look }: RoomToneMarkProps) {
  const { colours } = useTheme();
  const [left, width] = [place.x(tone.startS), Math.max(2, place.x(tone.endS) - place.x(tone.startS))];
  const tag = roomToneTag(tone, place);
  return (
    <>
      {look !== "spectrogram" && (
        <Box sx={{ position: "absolute", left, width, top: 0, bottom: 0, backgroundColor: colours.room, opacity: 0.1, pointerEvents: "none" }} />
      )}
      {!isNamed && (
        // Low, so that the times on the axis stay to be read.
        <Box sx={{ position: "absolute", left, width, top: place.half + AXIS - 4, height: 3, backgroundColor: colours.room, pointerEvents: "none" }} />
      )}
      {isNamed && <Box
        sx={{
          position: "absolute", top: place.half + 2, height: AXIS - 4, left, width: tag.to - tag.from, borderRadius: 1, fontSize: 12, fontWeight: 600,
          textAlign: "center", lineHeight: `${AXIS - 4}px`, color: colours.onInk, whiteSpace: "nowrap",
          backgroundColor: colours.room, pointerEvents: "none", overflow: "hidden",
          ...(tone.found && {
            backgroundColor: colours.paper, color: colours.room, border: `1px dashed ${colours.room}`, lineHeight: `${AXIS - 6}px`,
          }),
        }}
      >
        {tone.found ? "Found quiet" : "Room tone"}
      </Box>}
    </>
  );
}

/** A span left out: hatched, with its undo button on the axis where there is room. */
export function CutMark({ cut, place, onTakeBack }: { cut: Cut; place: Placing; onTakeBack: (() => void) | null }) {
  const { colours } = useTheme();
  const words = `Cut from ${formatTime(cut.start_s)} to ${formatTime(cut.end_s)}`;
  const [left, width] = [place.x(cut.start_s), place.x(cut.end_s) - place.x(cut.start_s)];
  return (
    <Box sx={{ position: "absolute", left, width: Math.max(2, width), top: 0, bottom: 0, pointerEvents: "none" }}>
      <Box
        data-testid="cut"
        sx={{
          position: "absolute", inset: 0, opacity: 0.85,
          background: `repeating-linear-gradient(135deg, ${colours.paper} 0 6px, ${colours.pith} 6px 9px)`,
        }}
      />
      {onTakeBack && (
      <ButtonBase
        aria-label={`Take back the ${words.toLowerCase()}`} title={`${words}; press to take it back`}
        onPointerDown={(event) => event.stopPropagation()} onClick={onTakeBack}
        sx={{
          position: "absolute", top: place.half - 1, left: Math.max(0, width / 2 - 12), width: 24, height: 24, borderRadius: "50%",
          backgroundColor: colours.paper, color: colours.ink, border: `1px solid ${colours.ink}`, pointerEvents: "auto",
        }}
      >
        <UndoIcon size={14} />
      </ButtonBase>
      )}
    </Box>
  );
}

/** An insert: a line at its place, and its length. */
export function InsertMark({ insert, place }: { insert: Insert; place: Placing }) {
  const { colours } = useTheme();
  const words = `${insert.kind === "silence" ? "Silence" : "Room tone"} of ${insert.length_s} s inserted at ${formatTime(insert.at_s, 2)}`;
  return (
    <Box
      role="img" aria-label={words}
      sx={{
        position: "absolute", left: place.x(insert.at_s), top: place.half + AXIS, bottom: 0, borderLeft: `2px dotted ${colours.room}`, pl: 1, fontSize: 12, lineHeight: "16px",
        display: "flex", alignItems: "end", color: colours.room, fontWeight: 600, pointerEvents: "none", whiteSpace: "nowrap",
      }}
    >
      <span style={{ backgroundColor: colours.paper }}>+{insert.length_s} s</span>
    </Box>
  );
}

const FLAG_PX = 112;

/** A marker: a line down to the axis, and its name, which moves the playhead there. */
export function MarkerFlag({ marker, place, onGoTo }: { marker: Marker; place: Placing; onGoTo: (timeS: number) => void }) {
  const { colours } = useTheme();
  const left = place.x(marker.at_s);
  if (left < -1 || left > place.width) return null;
  // At the right edge the name stands before its line.
  const turned = left + FLAG_PX > place.width;
  return (
    <>
      <Box sx={{ position: "absolute", left: left - 0.5, width: "1px", top: 0, height: place.half, backgroundColor: colours.ink, pointerEvents: "none" }} />
      <ButtonBase
        aria-label={`Marker ${marker.name}`} title={`${marker.name}, ${formatTime(marker.at_s, 2)}; press to go there`}
        onPointerDown={(event) => event.stopPropagation()} onClick={() => onGoTo(marker.at_s)}
        sx={{
          position: "absolute", top: 0, height: 18, px: 1.5, maxWidth: FLAG_PX, fontFamily: "inherit", fontSize: 12, fontWeight: 600, display: "block", overflow: "hidden", textOverflow: "ellipsis",
          whiteSpace: "nowrap", lineHeight: "18px", backgroundColor: colours.ink, color: colours.onInk,
          ...(turned ? { right: place.width - left, borderRadius: "9px 0 0 9px" } : { left, borderRadius: "0 9px 9px 0" }),
        }}
      >
        {marker.name}
      </ButtonBase>
    </>
  );
}

/** Room tone added at an end, told there. */
export function PadMark({ lengthS, atEnd, place }: { lengthS: number; atEnd: boolean; place: Placing }) {
  const { colours } = useTheme();
  if (lengthS <= 0) return null;
  return (
    <Box
      sx={{
        position: "absolute", top: place.height - 20, [atEnd ? "right" : "left"]: 2, fontSize: 12, lineHeight: "18px", px: 1.5,
        color: colours.room, border: `1px solid ${colours.room}`, borderRadius: 1, backgroundColor: colours.paper, pointerEvents: "none",
      }}
    >
      +{lengthS.toFixed(2)} s room tone
    </Box>
  );
}

/** Drawn outside React at the screen's own pace, so that it runs smoothly. */
export function Playhead({ player, place }: { player: Playback; place: Placing }) {
  const { colours } = useTheme();
  const line = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let frame = 0;
    let drawn: number | null = null;
    const draw = () => {
      // In whole pixels of the screen: what would look the same is not drawn again.
      const left = Math.round(place.x(player.timeNowS) * window.devicePixelRatio) / window.devicePixelRatio;
      if (line.current && left !== drawn) {
        drawn = left;
        line.current.style.transform = `translateX(${left}px)`;
        line.current.style.visibility = left < -1 || left > place.width ? "hidden" : "visible";
      }
      frame = requestAnimationFrame(draw);
    };
    draw();
    return () => cancelAnimationFrame(frame);
  }, [player, place]);
  return (
    <Box
      ref={line} data-testid="playhead"
      sx={{ position: "absolute", left: -1, top: 0, width: 2, height: place.height, backgroundColor: colours.ink, pointerEvents: "none", willChange: "transform" }}
    />
  );
}

interface ReadOutProps {
  timeS: number;
  before: Overview | undefined;
  after: Overview | undefined;
  afterEdits: Shifts;
  view: TimeSpan;
  place: Placing;
}

/** Levels of both sides under the pointer. */
export function ReadOut({ timeS, before, after, afterEdits, view, place }: ReadOutProps) {
  const { colours } = useTheme();
  const widthS = Math.max((3 * (view.endS - view.startS)) / place.width, before?.bin_s ?? 0);
  const at = (overview: Overview | undefined, fromS: number) => {
    const column = overview && columns(overview, fromS, fromS + widthS, 1)[0];
    if (!column) return null;
    const db = (v: number) => (v > 0 ? formatDb(20 * Math.log10(v)) : "\u2212\u221e");
    return `peak ${db(column.peak)}, average ${db(column.average)} dBFS`;
  };
  const beforeWords = at(before, timeS);
  const afterWords = at(after, toLeft(timeS, afterEdits));
  const decimals = view.endS - view.startS < 2 ? 4 : 2;
  return (
    <Box
      data-testid="read-out"
      sx={{
        position: "absolute", right: 4, top: 4, px: 2, fontSize: 12, lineHeight: "20px", borderRadius: 1, pointerEvents: "none",
        backgroundColor: colours.paper, color: colours.muted, opacity: 0.95,
      }}
    >
      <b style={{ color: colours.ink }}>{formatTime(timeS, decimals)}</b>
      {beforeWords && <span style={{ color: colours.beforeText }}> before {beforeWords}</span>}
      {afterWords && <span style={{ color: colours.afterText }}> after {afterWords}</span>}
    </Box>
  );
}
