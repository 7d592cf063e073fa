import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import { useTheme } from "@mui/material/styles";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";

import { useState, type ReactNode } from "react";

import { editedDurationS, toLeft, type Edits } from "../../audio/cutTimes";
import { removedByDb, type Controls, type Difference, type Playback } from "../../audio/playback";
import { useTimeS } from "../../audio/usePlayer";
import { formatChange, formatDb, formatTime } from "../../pictures/figures";
import { CheckIcon, PauseIcon, PlayIcon } from "../../pictures/icons";
import type { Look } from "./drawSide";

interface Props {
  player: Playback;
  state: Controls;
  durationS: number;
  edits: Edits;
  hasAfter: boolean;
  /** The passage loops; null where there is none to loop. */
  looping: boolean | null;
  onLoop: (looping: boolean) => void;
  /** Null while there is nothing to pick from. */
  onBlindPick: (() => void) | null;
  difference: Difference;
  look: Look;
  onLook: (look: Look) => void;
  /** What stands at the end of the bar. */
  children: ReactNode;
}

const LOOKS: readonly Look[] = ["dB", "linear", "spectrogram"];

/** Play, and choose what is heard; the place never jumps. */
export function PlaybackBar({ player, state, durationS, edits, hasAfter, looping, onLoop, onBlindPick, difference, look, onLook, children }: Props) {
  const { colours } = useTheme();
  const side = (name: "before" | "after", text: string, colour: string) => {
    const on = hasAfter ? state.side === name : name === "before";
    return (
      <Button
        size="small" aria-pressed={on} disabled={name === "after" && !hasAfter}
        onClick={() => player.choose(name)}
        startIcon={on ? <CheckIcon size={14} /> : undefined}
        sx={{
          minWidth: 84, color: on ? colours.onInk : colour, backgroundColor: on ? colour : "transparent",
          "&:hover": { backgroundColor: on ? colour : colours.pith },
        }}
      >
        {text}
      </Button>
    );
  };
  const chip = (text: string, on: boolean, act: () => void, tip: string, disabled = false) => (
    <Tooltip title={tip} describeChild>
      <span>
        <Button
          variant="outlined" size="small" aria-pressed={on} onClick={act} disabled={disabled}
          startIcon={on ? <CheckIcon size={14} /> : undefined}
          // As narrow as the check mark allows, so that the bar stays on one line.
          sx={on ? { borderColor: colours.ink, px: 2, "& .MuiButton-startIcon": { mr: 0.5, ml: 0 } } : {}}
        >
          {text}
        </Button>
      </span>
    </Tooltip>
  );
  const { louderDb } = difference;
  const removed = state.side === "removed";
  const byDb = removedByDb(difference);
  const removedText = removed && hasAfter && Math.abs(byDb) >= 0.05 ? `Removed, after ${formatChange(-byDb)} dB` : "Removed";
  const matchText =
    state.matched && louderDb !== null ? `Match, after ${formatDb(-louderDb)} dB` : "Match";
  return (
    <Box role="group" aria-label="Playback" sx={{ display: "flex", alignItems: "center", columnGap: 1.25, rowGap: 2, minHeight: 50, flexWrap: "wrap" }}>
      <IconButton
        aria-label={state.playing ? "Pause" : "Play"} onClick={() => player.toggle()}
        sx={{ width: 40, height: 40, backgroundColor: colours.ink, color: colours.onInk, "&:hover": { backgroundColor: colours.muted } }}
      >
        {state.playing ? <PauseIcon size={18} /> : <PlayIcon size={18} />}
      </IconButton>
      <Clock player={player} durationS={durationS} edits={edits} />
      <Box sx={{ display: "flex", border: `1px solid ${colours.rule}`, borderRadius: 5, p: "2px" }}>
        {side("before", "Before", colours.beforeText)}
        {side("after", "After", colours.afterText)}
      </Box>
      {chip(matchText, state.matched, () => player.match(!state.matched),
        "Play both at equal loudness, so that louder does not pass for better (M)", !hasAfter || louderDb === null)}
      {chip(removedText, removed, () => player.choose(removed ? "after" : "removed"),
        "Hear only the difference: after minus before, with the voice equally loud in both (R)", !hasAfter)}
      {looping !== null && chip("Loop passage", looping, () => onLoop(!looping), "Repeat the passage while settings are turned (L)")}
      {onBlindPick && (
        <Button variant="outlined" size="small" title="Pick the better one without knowing which is which" onClick={onBlindPick}>Blind pick</Button>
      )}
      {state.fault && (
        <Typography variant="body2" role="alert" sx={{ color: colours.fail }}>
          {state.fault}
        </Typography>
      )}
      <Box sx={{ flex: 1 }} />
      <Box sx={{ display: "flex", alignItems: "center", flexWrap: "wrap" }}>{children}
      <Button
        size="small" variant="text" title="Change between levels in dB, linear levels, and spectrogram"
        onClick={() => onLook(LOOKS[(LOOKS.indexOf(look) + 1) % LOOKS.length] ?? "dB")}
        sx={{ whiteSpace: "nowrap", fontWeight: 400, color: colours.muted, px: 1, minWidth: 0 }}
      >
        View:&nbsp;<b style={{ color: colours.ink }}>{look}</b>
      </Button>
      </Box>
    </Box>
  );
}

/** Playback position; with edits, in times of the original or of the edited recording. */
function Clock({ player, durationS, edits }: { player: Playback; durationS: number; edits: Edits }) {
  const { colours } = useTheme();
  const timeS = useTimeS(player);
  const [withCuts, setWithCuts] = useState(true);
  const leftS = editedDurationS(edits, durationS);
  const isEdited = leftS !== durationS;
  const shown = withCuts || !isEdited ? { timeS, durationS } : { timeS: toLeft(timeS, edits), durationS: leftS };
  return (
    <Typography component="div" sx={{ fontSize: 16, lineHeight: "20px", fontWeight: 660, minWidth: 110, whiteSpace: "nowrap" }}>
      {formatTime(shown.timeS)}{" "}
      <Box component="span" sx={{ fontSize: 14, fontWeight: 400, color: colours.muted }}>
        / {formatTime(shown.durationS)}
      </Box>
      {isEdited && (
        <Button
          size="small" variant="text" aria-pressed={!withCuts} title="Length after edits. Press to show edited times"
          onClick={() => setWithCuts(!withCuts)}
          sx={{ display: "block", fontWeight: 400, fontSize: 12, lineHeight: "14px", color: colours.muted, p: 0, minWidth: 0, minHeight: 14 }}
        >
          {withCuts ? `${formatTime(leftS)} edited` : "edited times"}
        </Button>
      )}
    </Typography>
  );
}
