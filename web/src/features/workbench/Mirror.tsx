import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import { useEffect, useMemo, useRef } from "react";

import type { Overview } from "../../api/types";
import { MIRROR } from "./focusing";
import { keptStretches, noEdits, toLeft, type Cut, type Edits } from "../../audio/cutTimes";
import type { Playback } from "../../audio/playback";
import { formatTime } from "../../pictures/figures";
import { spectrogramPixels } from "../../pictures/spectrogram";
import { sharpContext } from "../../pictures/waveform";
import { drawSide, type Look } from "./drawSide";
import { HEAD_LEFT } from "./levelGeometry";
import { useDetail, useSpectrogram, type Sound } from "./looking";
import { CutMark, InsertMark, MarkerFlag, PadMark, Playhead, ReadOut, RoomToneMark, Ruler, TimeAxis } from "./MirrorMarks";
import { AXIS, passageTag, placing, roomToneTag, shownCuts, type ShownRoomTone } from "./mirrorPlaces";
import { isWhole, type TimeSpan } from "./mirrorView";
import { OverviewStrip } from "./OverviewStrip";
import { PassageMark } from "./PassageMark";
import { useMirrorGestures } from "./useMirrorGestures";
import { useSettled } from "./useSettled";
import { useWidth } from "../../pictures/useWidth";

export interface MirrorSide {
  sound: Sound;
  /** Waveform of the whole. */
  overview: Overview | undefined;
}

interface Props {
  durationS: number;
  sampleRateHz: number;
  before: MirrorSide;
  after: MirrorSide | null;
  /** After is of an older chain. */
  outdated: boolean;
  look: Look;
  clippedAtS: readonly number[];
  /** Where noise is learned from, the one to be named first. */
  roomTones: readonly ShownRoomTone[];
  selection: TimeSpan | null;
  onSelect: (span: TimeSpan | null) => void;
  /** What is left out and added now, and what was when after was made. */
  edits: Edits;
  afterEdits: Edits;
  onTakeBack: (cut: Cut) => void;
  onGoTo: (timeS: number) => void;
  view: TimeSpan;
  onView: (view: TimeSpan) => void;
  player: Playback;
  /** Only so high that all marks stay. */
  folded: boolean;
  passage: TimeSpan | null;
  onPassage: (passage: TimeSpan) => void;
}

const SETTLE_MS = 120;
/** Detail is fetched for so much more on either side, so that moving along shows it at once. */
const SPARE = 0.5;

/** One time axis in the middle, before above it, after mirrored below. */
export function Mirror(props: Props) {
  const { durationS, before, after, outdated, look, clippedAtS, selection, edits, afterEdits, view, onView, player, folded } = props;
  const { colours } = useTheme();
  const [room, ref] = useWidth(1104);
  const canvas = useRef<HTMLCanvasElement>(null);
  const area = useRef<HTMLElement>(null);
  const width = Math.max(100, room - HEAD_LEFT);
  const place = useMemo(() => placing(view, width, folded), [view, width, folded]);
  const { height, half } = place;
  const gestures = useMirrorGestures(area, {
    view, durationS, onView, onSelect: props.onSelect, onSeek: (timeS) => player.seek(timeS),
  });

  const settled = useSettled(view, SETTLE_MS);
  const detailed = isWhole(view, durationS) ? null : settled;
  const sides = {
    before: usePicture(before, detailed && widened(detailed, durationS), view, look, settled, width, colours.before),
    after: usePicture(
      after, detailed && shiftedBy(widened(detailed, durationS), afterEdits), shiftedBy(view, afterEdits), look,
      shiftedBy(settled, afterEdits), width, colours.after,
    ),
  };
  const beforeStretches = useMemo(() => keptStretches(noEdits, durationS), [durationS]);
  const afterStretches = useMemo(() => keptStretches(afterEdits, durationS), [afterEdits, durationS]);

  useEffect(() => {
    const context = canvas.current && sharpContext(canvas.current, width, height);
    if (!context) return;
    context.clearRect(0, 0, width, height);
    const box = { width, height: half - 1 };
    const up = { ...box, axis: half, direction: -1 as const };
    const down = { ...box, axis: half + AXIS, direction: 1 as const };
    drawSide(context, { ...sides.before, stretches: beforeStretches }, view, up, look, props.sampleRateHz);
    context.globalAlpha = outdated ? 0.5 : 1;
    drawSide(context, { ...sides.after, stretches: afterStretches }, view, down, look, props.sampleRateHz);
    context.globalAlpha = 1;
    context.fillStyle = colours.fail;
    for (const at of clippedAtS) context.fillRect(place.x(at) - 1, 0, 2, 6);
  });

  const [named] = props.roomTones;
  const tags = [props.passage && passageTag(props.passage, place), named && roomToneTag(named, place)].filter((tag) => tag != null);
  const words = `${look === "spectrogram" ? "Spectrogram" : "Waveform"}, ${formatTime(durationS)}${after?.overview ? ", before above and after below" : ", before"}${
    isWhole(view, durationS) ? "" : `, shown from ${formatTime(view.startS, 2)} to ${formatTime(view.endS, 2)}`
  }`;
  return (
    <Box ref={ref} component="section" aria-label="Mirror: before above, after below">
      {!isWhole(view, durationS) && (
        <Box sx={{ pl: `${HEAD_LEFT}px` }}>
          <OverviewStrip overview={before.overview} durationS={durationS} width={width} view={view} onView={onView} />
        </Box>
      )}
      <Box sx={{ position: "relative", height: height }}>
        <Ruler place={place} look={look} hasAfter={after !== null} freqsHz={sides.before.spectrogram?.freqs_hz ?? []} />
        <Box
          ref={area} data-testid="mirror" id={MIRROR} tabIndex={-1} {...gestures.handlers}
          sx={{
            position: "absolute", left: HEAD_LEFT, top: 0, width, height: height, cursor: "text", overflow: "hidden",
            touchAction: "none", borderTop: `1px solid ${colours.rule}`, borderBottom: `1px solid ${colours.rule}`,
          }}
        >
          {props.passage && (
            <Box
              sx={{
                position: "absolute", left: place.x(props.passage.startS), width: place.x(props.passage.endS) - place.x(props.passage.startS),
                top: 0, bottom: 0, backgroundColor: colours.card,
              }}
            />
          )}
          {selection && (
            <Box
              sx={{
                position: "absolute", left: place.x(selection.startS),
                width: Math.max(2, place.x(selection.endS) - place.x(selection.startS)), top: 0, bottom: 0,
                backgroundColor: colours.card, borderLeft: `2px solid ${colours.ink}`, borderRight: `2px solid ${colours.ink}`,
              }}
            />
          )}
          <canvas ref={canvas} role="img" style={{ position: "relative", width, height: height, display: "block" }} aria-label={words} />
          <TimeAxis view={view} place={place} tags={tags} />
          {props.roomTones.map((tone) => (
            <RoomToneMark key={tone.startS} tone={tone} isNamed={tone === named} place={place} look={look} />
          ))}
          {shownCuts(edits.cuts, place).map(({ cut, hasUndo }) => (
            <CutMark key={cut.start_s} cut={cut} place={place} onTakeBack={hasUndo ? () => props.onTakeBack(cut) : null} />
          ))}
          {edits.inserts.map((insert) => <InsertMark key={`${insert.at_s} ${insert.length_s}`} insert={insert} place={place} />)}
          {edits.markers.map((marker) => <MarkerFlag key={marker.at_s} marker={marker} place={place} onGoTo={props.onGoTo} />)}
          <PadMark lengthS={edits.pad_start_s} atEnd={false} place={place} />
          <PadMark lengthS={edits.pad_end_s} atEnd place={place} />
          {props.passage && <PassageMark passage={props.passage} durationS={durationS} place={place} axisTop={half} axis={AXIS} onMove={props.onPassage} />}
          <Playhead player={player} place={place} />
          {gestures.pointerS !== null && (
            <ReadOut
              timeS={gestures.pointerS} before={sides.before.overview} after={sides.after.overview} afterEdits={afterEdits}
              view={view} place={place}
            />
          )}
        </Box>
      </Box>
    </Box>
  );
}

const widened = (view: TimeSpan, durationS: number): TimeSpan => {
  const spareS = SPARE * (view.endS - view.startS);
  return { startS: Math.max(0, view.startS - spareS), endS: Math.min(durationS, view.endS + spareS) };
};

const shiftedBy = (view: TimeSpan, edits: Edits): TimeSpan => ({
  startS: toLeft(view.startS, edits),
  // A stretch that lies within a cut is still some stretch.
  endS: Math.max(toLeft(view.endS, edits), toLeft(view.startS, edits) + 0.001),
});

/** What one side draws: the finer waveform where it covers what is shown, else that of the whole. */
function usePicture(
  side: MirrorSide | null, detailed: TimeSpan | null, shown: TimeSpan, look: Look, settled: TimeSpan, width: number, ink: string,
) {
  const { colours } = useTheme();
  const sound = side?.sound ?? null;
  const isSpectrogram = look === "spectrogram";
  const detail = useDetail(sound, isSpectrogram ? null : detailed).data;
  const spectrogram = useSpectrogram(sound, isSpectrogram ? settled : null, Math.min(1600, Math.round(width))).data;
  const covers = detailed && detail && detail.start_s <= shown.startS + detail.bin_s
    && detail.start_s + detail.bin_s * (detail.rms.length + 1) >= shown.endS;
  const pixels = useMemo(
    () => (spectrogram ? spectrogramPixels(spectrogram, colours.paper, ink) : null),
    [spectrogram, colours, ink],
  );
  return { overview: covers ? detail : side?.overview, spectrogram, pixels, colour: ink };
}
