import Alert from "@mui/material/Alert";
import Autocomplete from "@mui/material/Autocomplete";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Recording } from "../../api/types";
import { useDescribeRecordings, type Description } from "./api";

interface Props {
  recordings: Recording[];
  groups: string[];
  onClose: () => void;
}

/** Title, role, group, take and notes of one recording; the group alone of several. */
export function DescribeDialog({ recordings, groups, onClose }: Props) {
  const describe = useDescribeRecordings();
  const first = recordings[0];
  const one = recordings.length === 1;
  const [name, setName] = useState(first?.name ?? "");
  const [label, setLabel] = useState(first?.label ?? "");
  const [group, setGroup] = useState(one ? (first?.group ?? "") : "");
  const [take, setTake] = useState(first?.take?.toString() ?? "");
  const [notes, setNotes] = useState(first?.notes ?? "");
  const takeFault = take.trim() !== "" && !/^\d{1,6}$/.test(take.trim());
  const save = () => {
    const words: Description = one
      ? { name, label, group, notes, take: take.trim() === "" ? null : Number(take) }
      : { group };
    describe.mutate({ ids: recordings.map((r) => r.id), words }, { onSuccess: onClose });
  };
  return (
    <Dialog open onClose={onClose} aria-labelledby="describe" fullWidth maxWidth="xs">
      <DialogTitle id="describe" component="h2">
        {one ? "Describe the recording" : `Group of ${recordings.length} recordings`}
      </DialogTitle>
      <DialogContent sx={{ display: "flex", flexDirection: "column", gap: 4, "&&": { pt: 2 } }}>
        {describe.error && <Alert severity="error">{describe.error.message}</Alert>}
        {one && (
          <>
            <TextField label="Title" value={name} required onChange={(e) => setName(e.target.value)} />
            <TextField label="Role or room" value={label} onChange={(e) => setLabel(e.target.value)} />
          </>
        )}
        <Autocomplete
          freeSolo options={groups} inputValue={group} onInputChange={(_, value) => setGroup(value)}
          renderInput={(params) => <TextField {...params} label="Show, client or project" />}
        />
        {one && (
          <>
            <TextField
              label="Take" value={take} error={takeFault} onChange={(e) => setTake(e.target.value)}
              helperText={takeFault ? "A whole number" : undefined}
              slotProps={{ htmlInput: { inputMode: "numeric" } }}
            />
            <TextField label="Notes" value={notes} multiline minRows={3} onChange={(e) => setNotes(e.target.value)} />
            <Typography variant="caption" color="textSecondary">
              The file came in as {first?.original_name}.
            </Typography>
          </>
        )}
      </DialogContent>
      <DialogActions sx={{ p: 4 }}>
        <Button variant="outlined" onClick={onClose}>
          Cancel
        </Button>
        <Button variant="contained" onClick={save} disabled={takeFault || (one && name.trim() === "") || describe.isPending}>
          Save
        </Button>
      </DialogActions>
    </Dialog>
  );
}
