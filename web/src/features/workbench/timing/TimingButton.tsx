import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Popover from "@mui/material/Popover";
import { useTheme } from "@mui/material/styles";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import { useState } from "react";

import type { Recording } from "../../../api/types";
import { withCut, type Edits } from "../../../audio/cutTimes";
import type { Ends } from "../api";
import { EndsForm } from "./EndsForm";
import { InsertsForm } from "./InsertsForm";
import { MarkersForm } from "./MarkersForm";
import { PausesForm } from "./PausesForm";

interface Props {
  recording: Recording;
  edits: Edits;
  /** Where the playhead is at the moment. */
  nowS: () => number;
  onEdit: (change: Partial<Edits>) => void;
  onEnds: (ends: Ends, onDone: () => void) => void;
  onGoTo: (timeS: number) => void;
  settle: () => Promise<boolean>;
}

const PARTS = { ends: "Ends and fades", pauses: "Pauses", inserts: "Insert", markers: "Markers" } as const;
type Part = keyof typeof PARTS;

/** Edits of the time line: head and tail, fades, pauses, inserts, markers. */
export function TimingButton({ recording, edits, nowS, onEdit, onEnds, onGoTo, settle }: Props) {
  const { colours } = useTheme();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [part, setPart] = useState<Part>("ends");
  const [playheadS, setPlayheadS] = useState(0);
  const close = () => setAnchor(null);
  return (
    <>
      <Button
        size="small" variant="text" aria-haspopup="dialog" title="Ends, fades, pauses, inserts, markers"
        onClick={(event) => {
          setPlayheadS(nowS());
          setAnchor(event.currentTarget);
        }}
        sx={{ fontWeight: 500, whiteSpace: "nowrap", flexShrink: 0, px: 2, minHeight: 26 }}
      >
        Timing{edits.markers.length > 0 && `, ${edits.markers.length} ${edits.markers.length === 1 ? "marker" : "markers"}`}
      </Button>
      <Popover
        anchorEl={anchor} open={anchor !== null} onClose={close} anchorOrigin={{ vertical: "bottom", horizontal: "left" }}
        slotProps={{ paper: { role: "dialog", "aria-label": "Timing", sx: { width: 560, p: 5, border: `1px solid ${colours.rule}`, borderRadius: "15px" } } }}
      >
        <ToggleButtonGroup
          exclusive size="small" value={part} aria-label="Timing section" onChange={(_, value: Part | null) => value && setPart(value)} sx={{ mb: 4 }}
        >
          {(Object.keys(PARTS) as Part[]).map((name) => (
            <ToggleButton key={name} value={name} sx={{ px: 4, textTransform: "none" }}>{PARTS[name]}</ToggleButton>
          ))}
        </ToggleButtonGroup>
        <Box>
          {part === "ends" && <EndsForm key={recording.work_version} recording={recording} onSet={(ends) => onEnds(ends, close)} />}
          {part === "pauses" && (
            <PausesForm
              recording={recording} onGoTo={onGoTo}
              onCut={(cuts) => {
                onEdit({ cuts: cuts.reduce((all, cut) => withCut(all, { startS: cut.start_s, endS: cut.end_s }), [...edits.cuts]) });
                close();
              }}
            />
          )}
          {part === "inserts" && <InsertsForm inserts={edits.inserts} playheadS={playheadS} onGoTo={onGoTo} onSet={(inserts) => onEdit({ inserts })} />}
          {part === "markers" && (
            <MarkersForm
              recordingId={recording.id} markers={edits.markers} playheadS={playheadS} settle={settle} onGoTo={onGoTo} onSet={(markers) => onEdit({ markers })}
            />
          )}
        </Box>
      </Popover>
    </>
  );
}
