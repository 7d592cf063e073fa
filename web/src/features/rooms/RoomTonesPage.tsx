import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Link } from "react-router";

import { AskFirst } from "../../app/AskFirst";
import type { RoomTone } from "../../api/types";
import { formatDb, formatTime } from "../../pictures/figures";
import { useDeleteRoomTone, useRenameRoomTone, useRoomTones } from "./api";

/** Samples of "nobody is speaking", and where they come from. */
export function RoomTonesPage() {
  const tones = useRoomTones();
  const remove = useDeleteRoomTone();
  const [doomed, setDoomed] = useState<RoomTone | null>(null);
  const error = tones.error ?? remove.error;
  return (
    <Box sx={{ maxWidth: 900 }}>
      <Typography variant="h1" sx={{ pt: 2 }}>
        Room tones
      </Typography>
      <Typography variant="body2" color="textSecondary" sx={{ pb: 4 }}>
        Samples of “nobody is speaking”. One sample serves every take from the same room.
      </Typography>
      {error && <Alert severity="error">{error.message}</Alert>}
      {tones.data?.length === 0 && (
        <Typography sx={{ py: 6 }}>
          None yet. Open a recording, drag over a stretch without speech, and keep it as room tone.
        </Typography>
      )}
      {tones.data?.map((tone) => (
        <ToneRow key={tone.id} tone={tone} onDelete={() => setDoomed(tone)} />
      ))}
      <AskFirst
        open={doomed !== null}
        title={`Delete the room tone ${doomed?.name ?? ""}?`}
        action="Delete"
        onNo={() => setDoomed(null)}
        onYes={() => {
          if (doomed) remove.mutate(doomed.id);
          setDoomed(null);
        }}
      >
        Recordings that use it will look for a quiet stretch of their own.
      </AskFirst>
    </Box>
  );
}

function ToneRow({ tone, onDelete }: { tone: RoomTone; onDelete: () => void }) {
  const { colours } = useTheme();
  const rename = useRenameRoomTone();
  const [name, setName] = useState(tone.name);
  return (
    <Box
      component="section"
      aria-label={tone.name}
      sx={{ display: "flex", alignItems: "center", gap: 5, py: 3, borderTop: `1px solid ${colours.rule}` }}
    >
      <Box sx={{ width: 10, height: 10, borderRadius: 0.5, backgroundColor: colours.room }} />
      <TextField
        size="small" label="Room or microphone" value={name}
        onChange={(event) => setName(event.target.value)}
        onBlur={() => {
          if (name.trim() !== tone.name) rename.mutate({ id: tone.id, name });
        }}
        error={rename.isError} helperText={rename.error?.message}
        sx={{ width: 260 }}
      />
      <Box sx={{ flex: 1 }}>
        <Typography variant="body2">
          {formatDb(tone.level_dbfs)} dBFS, {(tone.end_s - tone.start_s).toFixed(1)} s, from{" "}
          <Link to={`/recordings/${tone.recording}`} style={{ color: "inherit" }}>
            {tone.recording_name}
          </Link>{" "}
          at {formatTime(tone.start_s)}
        </Typography>
        <Typography variant="caption" color="textSecondary">
          {new Date(tone.created_at).toLocaleDateString()}, used by {tone.used_by} recording
          {tone.used_by === 1 ? "" : "s"}
        </Typography>
      </Box>
      <Button variant="text" size="small" onClick={onDelete}>
        Delete
      </Button>
    </Box>
  );
}
