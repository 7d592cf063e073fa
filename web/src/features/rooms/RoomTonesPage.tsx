import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Link } from "react-router";

import { AskFirst } from "../../app/AskFirst";
import type { KeptRoomTone } from "../../api/types";
import { BandPicture } from "../../pictures/BandPicture";
import { formatDb, formatHz, formatTime } from "../../pictures/figures";
import { CautionIcon } from "../../pictures/icons";
import { useDeleteRoomTone, useRenameRoomTone, useRoomTones } from "./api";

/** Samples of "nobody is speaking" by room, what they hold, and how a room changed. */
export function RoomTonesPage() {
  const tones = useRoomTones();
  const remove = useDeleteRoomTone();
  const [doomed, setDoomed] = useState<KeptRoomTone | null>(null);
  const error = tones.error ?? remove.error;
  const rooms = byRoom(tones.data ?? []);
  return (
    <Box sx={{ maxWidth: 1000 }}>
      <Typography variant="h1" sx={{ pt: 2 }}>
        Room tones
      </Typography>
      <Typography variant="body2" color="textSecondary" sx={{ pb: 4 }}>
        Samples of “nobody is speaking”. One sample serves every take from the same room; several tell how the room changed.
      </Typography>
      {error && <Alert severity="error">{error.message}</Alert>}
      {tones.data?.length === 0 && (
        <Typography sx={{ py: 6 }}>
          None yet. Open a recording, drag over a stretch without speech, and keep it as room tone.
        </Typography>
      )}
      {rooms.map(([name, samples]) => (
        <Room key={name} name={name} samples={samples} onDelete={setDoomed} />
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

/** Samples of the same name together, the newest room first. */
function byRoom(tones: readonly KeptRoomTone[]): [string, KeptRoomTone[]][] {
  const rooms = new Map<string, KeptRoomTone[]>();
  for (const tone of tones) rooms.set(tone.name, [...(rooms.get(tone.name) ?? []), tone]);
  return [...rooms];
}

function Room({ name, samples, onDelete }: { name: string; samples: KeptRoomTone[]; onDelete: (tone: KeptRoomTone) => void }) {
  const { colours } = useTheme();
  const rename = useRenameRoomTone();
  const [text, setText] = useState(name);
  const renameAll = async () => {
    if (text.trim() === name) return;
    for (const sample of samples) await rename.mutateAsync({ id: sample.id, name: text });
  };
  return (
    <Box component="section" aria-label={name} sx={{ py: 4, borderTop: `1px solid ${colours.rule}` }}>
      <TextField
        size="small" label="Room or microphone" value={text} sx={{ width: 260, mb: 2 }}
        onChange={(event) => setText(event.target.value)} onBlur={() => void renameAll().catch(() => undefined)}
        error={rename.isError} helperText={rename.error?.message}
      />
      {samples.map((tone, i) => (
        <Sample key={tone.id} tone={tone} older={samples[i + 1]} onDelete={() => onDelete(tone)} />
      ))}
    </Box>
  );
}

function Sample({ tone, older, onDelete }: { tone: KeptRoomTone; older: KeptRoomTone | undefined; onDelete: () => void }) {
  const { colours } = useTheme();
  const { profile } = tone;
  const day = (date: string) => new Date(date).toLocaleDateString();
  const tones = profile?.tones_hz ?? [];
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 5, py: 2 }}>
      {profile ? (
        <BandPicture bands={profile.bands} name={`${tone.name}, ${day(tone.created_at)}`} {...(older?.profile && { behind: older.profile.bands })} />
      ) : (
        <Box sx={{ width: 220 }} />
      )}
      <Box sx={{ flex: 1 }}>
        <Typography variant="body2">
          <b>{formatDb(tone.level_dbfs)} dBFS</b>, {(tone.end_s - tone.start_s).toFixed(1)} s, from{" "}
          {tone.recording === null ? (
            "a recording that is gone"
          ) : tone.recording_deleted_at ? (
            `${tone.recording_name ?? ""}, which is deleted`
          ) : (
            <>
              <Link to={`/recordings/${tone.recording}`}>
                {tone.recording_name}
              </Link>{" "}
              at {formatTime(tone.start_s)}
            </>
          )}
          {tones.length > 0 && `, steady tones at ${tones.slice(0, 4).map(formatHz).join(", ")}`}
        </Typography>
        {tone.changed_since && (
          <Typography variant="body2" sx={{ fontWeight: 650 }}>
            {tone.changes.length > 0 ? tone.changes.join(", ") : "No change"} since {day(tone.changed_since)}
          </Typography>
        )}
        {profile?.warnings.map((warning) => (
          <Typography key={warning} variant="body2" sx={{ color: colours.caution, display: "flex", gap: 1, alignItems: "center" }}>
            <CautionIcon size={13} /> It {warning}
          </Typography>
        ))}
        <Typography variant="caption" color="textSecondary">
          {day(tone.created_at)}, used by {tone.used_by} recording{tone.used_by === 1 ? "" : "s"}
        </Typography>
      </Box>
      {/* Short, and without a picture of its own: the browser's own player will do. */}
      <audio controls preload="none" src={`/api/room-tones/${tone.id}/audio/`} aria-label={`Listen to ${tone.name}`} style={{ width: 190, height: 32 }} />
      <Button variant="text" size="small" onClick={onDelete}>
        Delete
      </Button>
    </Box>
  );
}
