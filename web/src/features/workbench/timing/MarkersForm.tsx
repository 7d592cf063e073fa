import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import InputBase from "@mui/material/InputBase";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Link } from "react-router";

import type { Marker } from "../../../audio/cutTimes";
import { formatTime } from "../../../pictures/figures";
import { parseTime } from "../../../pictures/quantity";
import { useSplit } from "../api";
import { withMarker } from "./markers";
import { PlaceButton } from "./PlaceButton";

interface Props {
  recordingId: string;
  markers: readonly Marker[];
  playheadS: number;
  onSet: (markers: Marker[]) => void;
  onGoTo: (timeS: number) => void;
  /** Keep what is not kept yet; false when that was refused. */
  settle: () => Promise<boolean>;
}

/** Named positions: chapters of deliveries, and where a recording can be split. */
export function MarkersForm({ recordingId, markers, playheadS, onSet, onGoTo, settle }: Props) {
  const { colours } = useTheme();
  const split = useSplit(recordingId);
  const [name, setName] = useState("");
  const [place, setPlace] = useState(playheadS.toFixed(2));
  const atS = parseTime(place);
  const begin = async () => {
    if (await settle()) split.mutate();
  };
  return (
    <>
      <Typography variant="body2" color="textSecondary" sx={{ mb: 4 }}>
        Markers become chapters in delivered MP3, OGG, Opus and FLAC files. Press N to add one at the playhead.
      </Typography>
      <Box
        component="form" sx={{ display: "flex", gap: 2, alignItems: "center" }}
        onSubmit={(event) => {
          event.preventDefault();
          if (atS !== null) onSet(withMarker(markers, atS, name));
          setName("");
        }}
      >
        <TextField size="small" label="At" title="Playhead position" value={place} onChange={(event) => setPlace(event.target.value)} sx={{ width: 92 }} />
        <TextField size="small" label="Name" value={name} placeholder={`Marker ${markers.length + 1}`} onChange={(event) => setName(event.target.value)} sx={{ flex: 1 }} slotProps={{ inputLabel: { shrink: true } }} />
        <Button type="submit" variant="contained" size="small" disabled={atS === null}>Add marker</Button>
      </Box>
      {markers.length > 0 && (
        <>
          <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0, my: 3, maxHeight: 200, overflowY: "auto", borderTop: `1px solid ${colours.rule}` }}>
            {markers.map((marker) => (
              <Box component="li" key={marker.at_s} sx={{ display: "flex", alignItems: "center", gap: 1, py: 0.5, borderBottom: `1px solid ${colours.rule}`, fontSize: 13 }}>
                <Box sx={{ width: 62 }}>{formatTime(marker.at_s, 2)}</Box>
                <InputBase
                  key={marker.name} defaultValue={marker.name} sx={{ flex: 1, fontSize: 13, fontWeight: 600 }}
                  inputProps={{ "aria-label": `Name of the marker at ${formatTime(marker.at_s, 2)}`, maxLength: 120 }}
                  onBlur={(event) => {
                    const renamed = event.target.value.trim();
                    if (renamed !== "" && renamed !== marker.name) onSet(markers.map((one) => (one === marker ? { ...one, name: renamed } : one)));
                  }}
                />
                <PlaceButton timeS={marker.at_s} of={marker.name} onGoTo={onGoTo} />
                <Button size="small" variant="text" sx={{ minWidth: 0, px: 2, minHeight: 24 }} aria-label={`Remove ${marker.name}`} onClick={() => onSet(markers.filter((one) => one !== marker))}>
                  Remove
                </Button>
              </Box>
            ))}
          </Box>
          <Box sx={{ display: "flex", alignItems: "center", gap: 3 }}>
            <Button variant="outlined" size="small" disabled={split.isPending} onClick={() => void begin()}>Split at markers</Button>
            <Typography variant="body2" color="textSecondary" sx={{ flex: 1 }}>
              {split.isPending ? "Creating recordings …" : "Creates one recording per chapter, with this chain and target. This recording stays."}
            </Typography>
          </Box>
        </>
      )}
      {split.error && <Alert severity="error" sx={{ mt: 2 }}>{split.error.message}</Alert>}
      {split.data && (
        <Alert severity="success" sx={{ mt: 2 }} action={<Button component={Link} to="/batches" state={{ recordings: split.data.map((one) => one.id) }} size="small">Batch these</Button>}>
          {split.data.length} recordings: {split.data.map((one) => one.name).join(", ")}
        </Alert>
      )}
    </>
  );
}
