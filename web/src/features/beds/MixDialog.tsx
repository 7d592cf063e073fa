import Alert from "@mui/material/Alert";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Bed, Params, Recording, Run, Target } from "../../api/types";
import { emptyOrder, filled, TagFields, type Order } from "../batches";
import { FileWishFields } from "../targets";
import { useStartMix } from "./api";

interface Props {
  onClose: () => void;
  recording: Recording;
  run: Run;
  bed: Bed;
  params: Params;
  targets: readonly Target[];
}

/** The mix as a finished file: target, name, kind of file and tags. */
export function MixDialog({ onClose, recording, run, bed, params, targets }: Props) {
  const start = useStartMix(recording.id);
  const usual = `${recording.name} over ${bed.name}`;
  const [order, setOrder] = useState<Order>({ ...emptyOrder, name: usual, target: recording.target ?? "", tags: { title: recording.name } });
  const set = (change: Partial<Order>) => setOrder({ ...order, ...change });
  const target = targets.find((t) => t.id === order.target);
  const submit = () => {
    const { name, file, cover } = order;
    start.mutate({ run: run.id, bed: bed.id, params, name, target: order.target || null, file, tags: filled(order.tags), cover }, { onSuccess: onClose });
  };
  return (
    <Dialog open onClose={onClose} aria-labelledby="deliver-mix" fullWidth maxWidth="sm">
      <form onSubmit={(event) => { event.preventDefault(); submit(); }}>
        <DialogTitle id="deliver-mix" component="h2">Deliver the mix</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 4, pt: "8px !important" }}>
          <TextField select label="Target" size="small" value={order.target} onChange={(e) => set({ target: e.target.value })} slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}>
            <MenuItem value="">none: limited to −1 dBTP</MenuItem>
            {targets.map((t) => <MenuItem key={t.id} value={t.id}>{t.name}</MenuItem>)}
          </TextField>
          {target && (
            <Typography variant="body2" color="textSecondary">
              {target.sentences.join(" · ")}. Level and ceiling are set to meet it; noise floor and silence at the ends are not asked of a mix, since there is music.
            </Typography>
          )}
          <TextField label="File name" size="small" value={order.name} onChange={(e) => set({ name: e.target.value })} />
          <FileWishFields value={order.file} onChange={(file) => set({ file })} free={target ? "as the target" : "as it is heard"} usual={target?.file?.container} />
          {run.channels === 1 && <Typography variant="body2" color="textSecondary">In a stereo mix the voice is in the middle and the music keeps its sides.</Typography>}
          <TagFields order={order} onChange={set} label="Tags" />
          {start.error && <Alert severity="error">{start.error.message}</Alert>}
        </DialogContent>
        <DialogActions sx={{ p: 4 }}>
          <Button variant="outlined" onClick={onClose}>Cancel</Button>
          <Button variant="contained" type="submit" disabled={start.isPending}>Make the mix</Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
