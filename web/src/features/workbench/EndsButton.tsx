import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Popover from "@mui/material/Popover";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Recording } from "../../api/types";
import { parseTime } from "../../pictures/quantity";

interface Props {
  recording: Recording;
  onSet: (ends: { head_s: number | null; tail_s: number | null }, onDone: () => void) => void;
}

/** Silence before the first word and after the last: how long it is, how long it is to be. */
export function EndsButton({ recording, onSet }: Props) {
  const { colours } = useTheme();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const phrases = recording.measures?.moments?.phrases ?? [];
  const [first, last] = [phrases[0], phrases.at(-1)];
  if (!first || !last || !recording.measures) return null;
  const now = { head: first.start_s, tail: recording.measures.duration_s - last.end_s };
  return (
    <>
      <Button
        size="small" variant="text" aria-haspopup="dialog" onClick={(event) => setAnchor(event.currentTarget)}
        title="Silence before the first word and after the last" sx={{ fontWeight: 500, whiteSpace: "nowrap", flexShrink: 0, px: 2, minHeight: 26 }}
      >
        Ends {now.head.toFixed(1)} and {now.tail.toFixed(1)} s
      </Button>
      <Popover
        anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)} anchorOrigin={{ vertical: "bottom", horizontal: "right" }}
        transformOrigin={{ vertical: "top", horizontal: "right" }}
        slotProps={{ paper: { role: "dialog", "aria-label": "Head and tail", sx: { width: 400, p: 5, border: `1px solid ${colours.rule}`, borderRadius: "15px" } } }}
      >
        <EndsForm now={now} onSet={(ends) => onSet(ends, () => setAnchor(null))} />
      </Popover>
    </>
  );
}

function EndsForm({ now, onSet }: { now: { head: number; tail: number }; onSet: (ends: { head_s: number | null; tail_s: number | null }) => void }) {
  const [head, setHead] = useState(now.head.toFixed(2));
  const [tail, setTail] = useState(now.tail.toFixed(2));
  const field = (label: string, value: string, set: (text: string) => void) => (
    <TextField size="small" label={label} value={value} onChange={(event) => set(event.target.value)} sx={{ width: 130 }} />
  );
  // What was not touched is left exactly as it is.
  const wanted = (text: string, before: number) => (text === before.toFixed(2) ? null : parseTime(text));
  return (
    <Box
      component="form"
      onSubmit={(event) => {
        event.preventDefault();
        onSet({ head_s: wanted(head, now.head), tail_s: wanted(tail, now.tail) });
      }}
    >
      <Typography variant="h3" component="h2">Silence at head and tail</Typography>
      <Typography variant="body2" color="textSecondary" sx={{ mb: 4 }}>
        Before the first word and after the last. What is too much is cut; what is missing is filled with the room’s own tone.
      </Typography>
      <Box sx={{ display: "flex", gap: 2, alignItems: "center" }}>
        {field("Head, s", head, setHead)}
        {field("Tail, s", tail, setTail)}
        <Button type="submit" variant="contained" size="small">Set</Button>
      </Box>
    </Box>
  );
}
