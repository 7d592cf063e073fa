import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Recording } from "../../../api/types";
import { parseTime } from "../../../pictures/quantity";
import type { Ends } from "../api";

interface Props {
  recording: Recording;
  onSet: (ends: Ends) => void;
}

/** Length of head, tail and fades. */
export function EndsForm({ recording, onSet }: Props) {
  const phrases = recording.measures?.speech_events?.phrases ?? [];
  const [first, last] = [phrases[0], phrases.at(-1)];
  const now: Record<keyof Ends, number | null> = {
    head_s: first?.start_s ?? null,
    tail_s: last && recording.measures ? recording.measures.duration_s - last.end_s : null,
    fade_in_s: recording.fade_in_s,
    fade_out_s: recording.fade_out_s,
  };
  const shown = (name: keyof Ends) => (now[name] === null ? "" : now[name].toFixed(2));
  const [typed, setTyped] = useState<Partial<Record<keyof Ends, string>>>({});
  const field = (name: keyof Ends, label: string) => (
    <TextField
      size="small" label={label} value={typed[name] ?? shown(name)} disabled={now[name] === null} sx={{ width: 108 }}
      onChange={(event) => setTyped({ ...typed, [name]: event.target.value })}
    />
  );
  // What was not touched is left exactly as it is.
  const wanted = (name: keyof Ends) => (typed[name] === undefined || typed[name] === shown(name) ? null : parseTime(typed[name]));
  return (
    <Box
      component="form"
      onSubmit={(event) => {
        event.preventDefault();
        onSet({ head_s: wanted("head_s"), tail_s: wanted("tail_s"), fade_in_s: wanted("fade_in_s"), fade_out_s: wanted("fade_out_s") });
      }}
    >
      <Typography variant="body2" color="textSecondary" sx={{ mb: 4 }}>
        {first
          ? "Silence before the first word and after the last. Longer silence is cut; missing silence is filled with room tone."
          : "No voice found. Cut head and tail by hand: select on the picture, then press X."}
      </Typography>
      <Box sx={{ display: "flex", gap: 2, alignItems: "center" }}>
        {field("head_s", "Head, s")}
        {field("tail_s", "Tail, s")}
        {field("fade_in_s", "Fade in, s")}
        {field("fade_out_s", "Fade out, s")}
        <Button type="submit" variant="contained" size="small">Set</Button>
      </Box>
    </Box>
  );
}
