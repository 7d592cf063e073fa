import Alert from "@mui/material/Alert";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import type { Recording } from "../../api/types";
import type { PassageSpan } from "../live";
import { fetchVersionsPage } from "./clientPage";
import type { Side } from "./sides";

interface Props {
  open: boolean;
  onClose: () => void;
  recording: Recording;
  span: PassageSpan;
  sides: readonly Side[];
}

/** Several versions of the passage as one page for a client, each under a name to choose. */
export function ClientVersionsDialog({ open, onClose, recording, span, sides }: Props) {
  const [names, setNames] = useState<Record<string, string>>({});
  const nameOf = (side: Side) => names[side.label] ?? side.label;
  const make = useMutation({
    mutationFn: () => fetchVersionsPage(recording, span, sides, sides.map((side) => nameOf(side).trim() || side.label)),
    onSuccess: onClose,
  });
  return (
    <Dialog open={open} onClose={onClose} aria-labelledby="client-versions" fullWidth maxWidth="xs">
      <form onSubmit={(event) => { event.preventDefault(); make.mutate(); }}>
        <DialogTitle id="client-versions" component="h2">Page for a client</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 3 }}>
          <Typography variant="body2">
            One file that plays {sides.length} versions of the passage anywhere, equally loud if wanted, with room for notes that come back as a file.
          </Typography>
          {sides.map((side, i) => (
            <TextField key={side.label} size="small" label={`Name of version ${i + 1}`} value={nameOf(side)} onChange={(event) => setNames({ ...names, [side.label]: event.target.value })} />
          ))}
          {make.error && <Alert severity="error">{make.error.message}</Alert>}
        </DialogContent>
        <DialogActions sx={{ p: 4 }}>
          <Button variant="outlined" onClick={onClose}>Cancel</Button>
          <Button variant="contained" type="submit" disabled={make.isPending}>{make.isPending ? "Making the page …" : "Download the page"}</Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
