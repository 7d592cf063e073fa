import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Recording } from "../../api/types";
import { toLeft, type Shifts } from "../../audio/cutTimes";
import { parseTime } from "../../pictures/quantity";
import { BandPicture } from "../../pictures/BandPicture";
import { useMarkRoomTone, useRoomProfile } from "./api";
import type { Sound } from "./looking";
import type { TimeSpan } from "./mirrorView";
import { RoomNameField } from "./RoomNameField";
import { SelectionFigures } from "./SelectionFigures";
import { useSettled } from "./useSettled";

interface Props {
  recording: Recording;
  selection: TimeSpan | null;
  onSelect: (span: TimeSpan | null) => void;
  onCut: (span: TimeSpan) => void;
  onPassage: (span: TimeSpan) => void;
  /** The result, when it is of the chain as it stands. */
  afterSound: Sound | null;
  afterEdits: Shifts;
}

/** Longer stretches are not looked at as room tone. */
const LONGEST_TONE_S = 20;
const SETTLE_MS = 250;

/** The selected stretch: its edges to type, its figures, cutting it out, keeping it as room tone. */
export function SelectionTools({ selection, ...props }: Props) {
  const settled = useSettled(selection, SETTLE_MS);
  if (!selection) return null;
  return <Tools {...props} selection={selection} settled={settled} />;
}

function Tools({ recording, selection, settled, onSelect, onCut, onPassage, afterSound, afterEdits }: Props & { selection: TimeSpan; settled: TimeSpan | null }) {
  const { colours } = useTheme();
  const mark = useMarkRoomTone(recording.id);
  const [name, setName] = useState("");
  const lengthS = selection.endS - selection.startS;
  const profile = useRoomProfile(recording.id, settled && settled.endS - settled.startS <= LONGEST_TONE_S ? settled : null).data;
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
        const value = parseTime(event.target.value);
        if (value !== null) onSelect({ ...selection, [which]: value });
      }}
    />
  );
  const afterSpan = settled && {
    startS: toLeft(settled.startS, afterEdits),
    endS: toLeft(settled.endS, afterEdits),
  };
  return (
    <Box role="group" aria-label="Selection" sx={{ pb: 2, pt: 1 }}>
      <Box sx={{ display: "flex", alignItems: "center", gap: 2 }}>
        <Typography variant="body2" sx={{ fontWeight: 650, whiteSpace: "nowrap" }}>
          Selected {lengthS.toFixed(2)} s
        </Typography>
        {edge("startS", "From, s")}
        {edge("endS", "To, s")}
        <RoomNameField value={name} onChange={setName} />
        <Button size="small" variant="contained" onClick={keep} disabled={mark.isPending}>
          Keep as room tone
        </Button>
        <Button size="small" variant="outlined" title="Cut selection (X)" onClick={() => onCut(selection)}>
          Cut out
        </Button>
        <Button
          size="small" variant="outlined" title="Loop selection"
          onClick={() => {
            onPassage(selection);
            onSelect(null);
          }}
        >
          Loop it
        </Button>
        <Button size="small" variant="text" onClick={() => onSelect(null)}>
          Clear
        </Button>
        {profile && profile.level_dbfs !== null && (
          <Box sx={{ ml: "auto", flexShrink: 0 }}>
            <BandPicture bands={profile.bands} name="the selection" width={180} height={44} />
          </Box>
        )}
      </Box>
      <Box sx={{ display: "flex", gap: 5, mt: 1, alignItems: "baseline", flexWrap: "wrap" }}>
        <SelectionFigures side="before" sound={{ kind: "recordings", id: recording.id }} span={settled} />
        {afterSound && <SelectionFigures side="after" sound={afterSound} span={afterSpan} />}
        {profile && profile.warnings.length > 0 && (
          <Typography variant="body2" sx={{ color: colours.caution }}>
            As room tone: {profile.warnings.join("; ")}
          </Typography>
        )}
        {mark.error && (
          <Typography variant="body2" role="alert" sx={{ color: colours.fail }}>
            {mark.error.message}
          </Typography>
        )}
      </Box>
    </Box>
  );
}
