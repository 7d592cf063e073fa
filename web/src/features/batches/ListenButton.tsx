import Button from "@mui/material/Button";
import Popover from "@mui/material/Popover";
import { useState } from "react";

import type { BatchFile } from "../../api/types";
import { editsOf } from "../../audio/cutTimes";
import { usePlayer } from "../../audio/usePlayer";
import { formatTime } from "../../pictures/figures";
import { SidePlayer } from "../compare";

/** Before and after of a finished file, in its row. */
export function ListenButton({ run }: { run: BatchFile }) {
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

function Listening({ run }: { run: BatchFile }) {
  const louderDb =
    run.before?.integrated_lufs != null && run.after?.integrated_lufs != null ? run.after.integrated_lufs - run.before.integrated_lufs : null;
  const difference = { louderDb, voiceGainDb: run.voice_gain_db };
  const { player, state } = usePlayer({
    url: `/api/runs/${run.id}/pair/`, channels: run.channels, hasAfter: true, ...difference, edits: editsOf(run), isEdited: false,
  });
  return <SidePlayer player={player} state={state} difference={difference} of={`of ${formatTime(run.duration_s)}`} />;
}
