import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import Typography from "@mui/material/Typography";

import type { Recording } from "../../api/types";
import { KeepHouseVoice } from "./HouseVoiceButton";

/** Keep the voice of the chosen recordings. */
export function HouseVoiceDialog({ recordings, onClose }: { recordings: Recording[]; onClose: () => void }) {
  const groups = new Set(recordings.map((r) => r.group ?? ""));
  return (
    <Dialog open onClose={onClose} aria-labelledby="house-voice" fullWidth maxWidth="xs">
      <DialogTitle id="house-voice" component="h2">House voice of {recordings.length === 1 ? "a recording" : `${recordings.length} recordings`}</DialogTitle>
      <DialogContent sx={{ display: "grid", gap: 4, "&&": { pt: 2 } }}>
        <Typography variant="body2">
          Keeps the tone, level, evenness and clearance of the latest result, or of the recording where there is none; of several their mean. The workbench shows how far others are from it.
        </Typography>
        <KeepHouseVoice recordings={recordings} suggested={groups.size === 1 ? [...groups].join("") : ""} />
      </DialogContent>
      <DialogActions>
        <Button variant="text" onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
