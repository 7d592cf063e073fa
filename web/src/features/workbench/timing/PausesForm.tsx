import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Recording } from "../../../api/types";
import type { Cut } from "../../../audio/cutTimes";
import { formatTime } from "../../../pictures/figures";
import { parseTime } from "../../../pictures/quantity";
import { usePauses } from "../api";
import { useSettled } from "../useSettled";
import { PlaceButton } from "./PlaceButton";

interface Props {
  recording: Recording;
  onCut: (cuts: Cut[]) => void;
  onGoTo: (timeS: number) => void;
}

const USUAL_S = "0.8";
const SETTLE_MS = 400;

/** Long pauses, each to play and refuse before the rest are shortened. */
export function PausesForm({ recording, onCut, onGoTo }: Props) {
  const { colours } = useTheme();
  const [typed, setTyped] = useState(USUAL_S);
  const [refused, setRefused] = useState<ReadonlySet<number>>(new Set());
  const longestS = useSettled(parseTime(typed), SETTLE_MS);
  const pauses = usePauses(recording, longestS);
  const found = pauses.data ?? [];
  const taken = found.filter((pause) => !refused.has(pause.at_s));
  const goneS = taken.reduce((sum, { cut }) => sum + cut.end_s - cut.start_s, 0);
  const turn = (atS: number) => {
    const next = new Set(refused);
    if (!next.delete(atS)) next.add(atS);
    setRefused(next);
  };
  return (
    <>
      <Typography variant="body2" color="textSecondary" sx={{ mb: 3 }}>
        Shortens longer pauses between words to this length. Each cut falls where the room is quietest and matches on both sides; any cut can be
        undone on the picture.
      </Typography>
      <Box sx={{ display: "flex", gap: 3, alignItems: "center" }}>
        <TextField size="small" label="Longest pause, s" value={typed} onChange={(event) => setTyped(event.target.value)} sx={{ width: 130 }} />
        <Typography variant="body2" role="status" sx={{ flex: 1 }}>
          {pauses.isFetching ? "Finding pauses …" : pauses.data ? `${found.length} longer ${found.length === 1 ? "pause" : "pauses"}` : ""}
        </Typography>
        <Button variant="contained" size="small" disabled={taken.length === 0 || pauses.isFetching} onClick={() => onCut(taken.map((pause) => pause.cut))}>
          Shorten {taken.length}, −{goneS.toFixed(1)} s
        </Button>
      </Box>
      {pauses.error && <Alert severity="error" sx={{ mt: 2 }}>{pauses.error.message}</Alert>}
      {found.length > 0 && (
        <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0, mt: 3, maxHeight: 232, overflowY: "auto", borderTop: `1px solid ${colours.rule}` }}>
          {found.map((pause) => (
            <Box component="li" key={pause.at_s} sx={{ display: "flex", alignItems: "center", gap: 3, py: 0.5, borderBottom: `1px solid ${colours.rule}`, fontSize: 13 }}>
              <Box component="label" sx={{ display: "flex", alignItems: "center", gap: 2, flex: 1 }}>
                <input type="checkbox" checked={!refused.has(pause.at_s)} onChange={() => turn(pause.at_s)} />
                {formatTime(pause.at_s)}, {pause.length_s.toFixed(1)} s
              </Box>
              <PlaceButton timeS={Math.max(0, pause.at_s - 1)} of={`the pause at ${formatTime(pause.at_s)}`} onGoTo={onGoTo} />
            </Box>
          ))}
        </Box>
      )}
    </>
  );
}
