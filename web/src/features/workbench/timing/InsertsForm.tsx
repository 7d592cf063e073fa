import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Insert } from "../../../audio/cutTimes";
import { formatTime } from "../../../pictures/figures";
import { parseTime } from "../../../pictures/quantity";
import { PlaceButton } from "./PlaceButton";

interface Props {
  inserts: readonly Insert[];
  playheadS: number;
  onSet: (inserts: Insert[]) => void;
  onGoTo: (timeS: number) => void;
}

const KINDS = { room_tone: "Room tone", silence: "Silence" } as const;

/** Inserts room tone or silence at the playhead; lists earlier inserts. */
export function InsertsForm({ inserts, playheadS, onSet, onGoTo }: Props) {
  const { colours } = useTheme();
  const [kind, setKind] = useState<Insert["kind"]>("room_tone");
  const [length, setLength] = useState("1.0");
  const [place, setPlace] = useState(playheadS.toFixed(2));
  const [lengthS, atS] = [parseTime(length), parseTime(place)];
  const fits = lengthS !== null && lengthS > 0 && atS !== null;
  return (
    <>
      <Typography variant="body2" color="textSecondary" sx={{ mb: 4 }}>
        Uses the selected room tone, or the best one found. Inserts play in passages and results; the original file does not change.
      </Typography>
      <Box
        component="form" sx={{ display: "flex", gap: 2, alignItems: "center" }}
        onSubmit={(event) => {
          event.preventDefault();
          if (fits) onSet([...inserts, { at_s: atS, length_s: lengthS, kind }]);
        }}
      >
        <TextField select size="small" label="Kind" value={kind} onChange={(event) => setKind(event.target.value as Insert["kind"])} sx={{ width: 126 }}>
          {Object.entries(KINDS).map(([value, words]) => <MenuItem key={value} value={value}>{words}</MenuItem>)}
        </TextField>
        <TextField size="small" label="Length, s" value={length} onChange={(event) => setLength(event.target.value)} sx={{ width: 92 }} />
        <TextField size="small" label="At" title="Playhead position" value={place} onChange={(event) => setPlace(event.target.value)} sx={{ width: 92 }} />
        <Button type="submit" variant="contained" size="small" disabled={!fits}>Insert</Button>
      </Box>
      {inserts.length > 0 && (
        <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0, mt: 3, maxHeight: 200, overflowY: "auto", borderTop: `1px solid ${colours.rule}` }}>
          {inserts.map((insert) => (
            <Box component="li" key={`${insert.at_s} ${insert.length_s}`} sx={{ display: "flex", alignItems: "center", gap: 1, py: 0.5, borderBottom: `1px solid ${colours.rule}`, fontSize: 13 }}>
              <Box sx={{ flex: 1 }}>{KINDS[insert.kind]} of {insert.length_s} s at {formatTime(insert.at_s, 2)}</Box>
              <PlaceButton timeS={insert.at_s} of={formatTime(insert.at_s, 2)} onGoTo={onGoTo} />
              <Button size="small" variant="text" sx={{ minWidth: 0, px: 2, minHeight: 24 }} aria-label={`Remove the insert at ${formatTime(insert.at_s, 2)}`} onClick={() => onSet(inserts.filter((one) => one !== insert))}>
                Remove
              </Button>
            </Box>
          ))}
        </Box>
      )}
    </>
  );
}
