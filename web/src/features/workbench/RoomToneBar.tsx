import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Recording } from "../../api/types";
import { toOriginal } from "../../audio/cutTimes";
import { formatTime, parseNumber } from "../../pictures/figures";
import { useRoomTones } from "../rooms";
import { useChooseRoomTone, useMarkRoomTone } from "./api";
import type { TimeSpan } from "./Mirror";

interface Props {
  recording: Recording;
  selection: TimeSpan | null;
  onSelect: (span: TimeSpan | null) => void;
}

/** Which room tone is used; a menu to choose another. */
export function RoomToneChoice({ recording, onSelect }: Omit<Props, "selection">) {
  const { colours } = useTheme();
  const tones = useRoomTones();
  const choose = useChooseRoomTone(recording.id);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const tone = recording.room_tone;
  const left = recording.measures?.found_room_tone;
  const found = left && {
    start_s: toOriginal(left.start_s, recording.cuts),
    end_s: toOriginal(left.end_s, recording.cuts),
  };
  const used = tone
    ? `Room tone: ${tone.name}`
    : found
      ? `Room tone: found at ${formatTime(found.start_s)}`
      : "Room tone: none found";
  const close = () => setAnchor(null);
  return (
    <>
      <Button
        size="small" variant="text" aria-haspopup="menu" title={choose.error?.message ?? used}
        onClick={(event) => setAnchor(event.currentTarget)}
        startIcon={<Box sx={{ width: 9, height: 9, backgroundColor: colours.room, borderRadius: "2px" }} />}
        sx={{ fontWeight: 500, maxWidth: 260, whiteSpace: "nowrap", overflow: "hidden", color: choose.error ? colours.fail : colours.ink }}
      >
        {choose.error ? choose.error.message : used}
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={close}>
        <MenuItem
          onClick={() => {
            close();
            onSelect({
              startS: found?.start_s ?? 0,
              endS: found?.end_s ?? Math.min(1, recording.duration_s ?? 1),
            });
          }}
        >
          Mark a stretch of this recording …
        </MenuItem>
        <MenuItem
          selected={!tone}
          onClick={() => {
            close();
            choose.mutate(null);
          }}
        >
          Find it by itself
        </MenuItem>
        {tones.data?.map((t) => (
          <MenuItem
            key={t.id} selected={t.id === tone?.id}
            onClick={() => {
              close();
              choose.mutate(t.id);
            }}
          >
            {t.name}, from {t.recording_name}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

/** The selected stretch: its edges to type, and keeping it as room tone. */
export function SelectionTools({ recording, selection, onSelect, onCut }: Props & { onCut: (span: TimeSpan) => void }) {
  const { colours } = useTheme();
  const mark = useMarkRoomTone(recording.id);
  const [name, setName] = useState("");
  if (!selection) return null;
  const keep = () =>
    mark.mutate(
      { start_s: selection.startS, end_s: selection.endS, name },
      { onSuccess: () => onSelect(null) },
    );
  const edge = (which: keyof TimeSpan, label: string) => (
    <TextField
      key={`${which}-${selection[which].toFixed(3)}`} size="small" label={label} sx={{ width: 92 }}
      defaultValue={selection[which].toFixed(2)}
      onBlur={(event) => {
        const value = parseNumber(event.target.value);
        if (value !== null) onSelect({ ...selection, [which]: value });
      }}
    />
  );
  return (
    <Box role="group" aria-label="Selection" sx={{ display: "flex", alignItems: "center", gap: 2, pb: 2, pt: 1 }}>
      <Typography variant="body2" sx={{ fontWeight: 650 }}>
        Selected {(selection.endS - selection.startS).toFixed(2)} s
      </Typography>
      {edge("startS", "From, s")}
      {edge("endS", "To, s")}
      <TextField
        size="small" label="Room or microphone" value={name} sx={{ width: 190 }}
        onChange={(event) => setName(event.target.value)}
      />
      <Button size="small" variant="contained" onClick={keep} disabled={mark.isPending}>
        Keep as room tone
      </Button>
      <Button size="small" variant="outlined" title="Leave it out of everything (X)" onClick={() => onCut(selection)}>
        Cut out
      </Button>
      <Button size="small" variant="text" onClick={() => onSelect(null)}>
        Clear
      </Button>
      {mark.error && (
        <Typography variant="body2" role="alert" sx={{ color: colours.fail }}>
          {mark.error.message}
        </Typography>
      )}
    </Box>
  );
}
