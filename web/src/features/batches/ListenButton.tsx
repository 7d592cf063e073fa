import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Popover from "@mui/material/Popover";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { useState, useSyncExternalStore } from "react";

import type { Run } from "../../api/types";
import { editsOf } from "../../audio/cutTimes";
import type { Playback } from "../../audio/playback";
import { usePlayer } from "../../audio/usePlayer";
import { formatChange, formatTime } from "../../pictures/figures";
import { PauseIcon, PlayIcon } from "../../pictures/icons";

/** Before and after of a finished file, in its row. */
export function ListenButton({ run }: { run: Run }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button size="small" variant="text" onClick={(event) => setAnchor(event.currentTarget)} aria-label={`Listen to ${run.recording_name}`} sx={{ mr: 1 }}>
        Listen
      </Button>
      <Popover open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)} anchorOrigin={{ vertical: "bottom", horizontal: "right" }} transformOrigin={{ vertical: "top", horizontal: "right" }} slotProps={{ paper: { sx: { p: 3, borderRadius: "14px" }, role: "dialog", "aria-label": `Listen to ${run.recording_name}` } }}>
        <Listening run={run} />
      </Popover>
    </>
  );
}

function Listening({ run }: { run: Run }) {
  const louderDb =
    run.before?.integrated_lufs != null && run.after?.integrated_lufs != null ? run.after.integrated_lufs - run.before.integrated_lufs : null;
  const { player, state } = usePlayer({
    url: `/api/runs/${run.id}/pair/`, channels: run.channels, hasAfter: true, louderDb, edits: editsOf(run), isEdited: false,
  });
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 3 }}>
      <Button variant="contained" aria-label={state.playing ? "Pause" : "Play"} onClick={() => player.toggle()} sx={{ minWidth: 0 }}>
        {state.playing ? <PauseIcon size={16} /> : <PlayIcon size={16} />}
      </Button>
      <ToggleButtonGroup size="small" exclusive value={state.side} onChange={(_, side: "before" | "after" | null) => side && player.choose(side)} aria-label="Side">
        <ToggleButton value="before">Before</ToggleButton>
        <ToggleButton value="after">After</ToggleButton>
      </ToggleButtonGroup>
      <Button size="small" variant={state.matched ? "contained" : "outlined"} disabled={louderDb === null} aria-pressed={state.matched} onClick={() => player.match(!state.matched)}>
        Match
      </Button>
      <Typography variant="caption" sx={{ fontVariantNumeric: "tabular-nums" }}>
        <Now player={player} /> of {formatTime(run.duration_s)}
        {state.matched && louderDb !== null && `, after ${formatChange(-louderDb)} dB`}
      </Typography>
    </Box>
  );
}

function Now({ player }: { player: Playback }) {
  const { timeS } = useSyncExternalStore(player.subscribe, player.snapshot);
  return <>{formatTime(timeS)}</>;
}
