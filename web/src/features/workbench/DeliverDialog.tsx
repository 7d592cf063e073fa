import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useDeferredValue, useState } from "react";

import type { FileWish, Recording, Run, Target } from "../../api/types";
import { asBeforeForOne, asBody, emptyOrder, SetUpAs, TagFields, useBatches, usePreview, useStartBatch, type Order } from "../batches";
import { FileWishFields } from "../targets";
import { DeliveryUnderWay } from "./DeliveryUnderWay";

interface Props {
  open: boolean;
  onClose: () => void;
  recording: Recording;
  targets: readonly Target[];
  /** Of the chain as it is now. */
  result: Run | null;
  /** Keep what is not kept yet. */
  settle: () => Promise<boolean>;
}

const KIND_KEY = "zesty-delivered-kind";

/** Without a target: the kind of file delivered last, at first an MP3. */
function usualOrder(recording: Recording): Order {
  const target = recording.target ?? "";
  return { ...emptyOrder, target, file: target === "" ? lastKind() : {} };
}

function lastKind(): FileWish {
  try {
    return JSON.parse(localStorage.getItem(KIND_KEY) ?? "null") as FileWish | null ?? { container: "MP3" };
  } catch {
    return { container: "MP3" };
  }
}

function keepKind(file: FileWish): void {
  try {
    localStorage.setItem(KIND_KEY, JSON.stringify(file));
  } catch {
    // A full store costs a choice next time, nothing else.
  }
}

/** One finished file of this recording: target, name, kind of file and tags. */
export function DeliverDialog({ open, onClose, recording, targets, result, settle }: Props) {
  const start = useStartBatch();
  const [started, setStarted] = useState<string | null>(null);
  const [order, setOrder] = useState<Order>(() => usualOrder(recording));
  const close = () => {
    setStarted(null);
    onClose();
  };
  const batches = useBatches();
  const [like, setLike] = useState("");
  const setUpAs = (id: string) => {
    const earlier = batches.data?.find((b) => b.id === id);
    setLike(id);
    const own = recording.target ?? "";
    setOrder(earlier ? asBeforeForOne(earlier, own) : usualOrder(recording));
  };
  const set = (change: Partial<Order>) => setOrder({ ...order, ...change });
  const body = asBody({ ...order, name: recording.name }, [recording.id]);
  const preview = usePreview(useDeferredValue({ ...body, recordings: open ? body.recordings : [] }));
  const target = targets.find((t) => t.id === order.target);
  const error = start.error ?? preview.error;
  const submit = async () => {
    if (!(await settle())) return onClose();
    start.mutate(body, {
      onSuccess: (batch) => {
        keepKind(order.file);
        setStarted(batch.id);
      },
    });
  };
  if (started !== null) {
    return (
      <Dialog open={open} onClose={close} aria-labelledby="deliver" fullWidth maxWidth="sm">
        <DialogTitle id="deliver" component="h2">Deliver</DialogTitle>
        <DialogContent sx={{ pb: 4 }}>
          <DeliveryUnderWay batchId={started} onClose={close} onAgain={() => setStarted(null)} />
        </DialogContent>
      </Dialog>
    );
  }
  return (
    <Dialog open={open} onClose={onClose} aria-labelledby="deliver" fullWidth maxWidth="sm">
      <form onSubmit={(event) => { event.preventDefault(); void submit(); }}>
        <DialogTitle id="deliver" component="h2">Deliver</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 4, pt: "8px !important" }}>
          <SetUpAs batches={batches.data ?? []} value={like} onChange={setUpAs} />
          <TextField select label="Target" size="small" value={order.target} onChange={(e) => set({ target: e.target.value })} slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}>
            <MenuItem value="">none: the chain as it is</MenuItem>
            {targets.map((t) => <MenuItem key={t.id} value={t.id}>{t.name}</MenuItem>)}
          </TextField>
          {target && <Typography variant="body2" color="textSecondary">{target.sentences.join(" · ")}. The last steps are set to meet it.</Typography>}
          <TextField label="File name" size="small" autoFocus value={order.pattern} onChange={(e) => set({ pattern: e.target.value })} helperText={preview.data?.[0]?.file_name ?? " "} />
          <FileWishFields value={order.file} onChange={(file) => set({ file })} free={target ? "as the target" : "as recorded"} usual={target?.file?.container} />
          <TagFields order={order} onChange={set} label="Tags" />
          {error && <Alert severity="error">{error.message}</Alert>}
        </DialogContent>
        <DialogActions sx={{ p: 4 }}>
          <Box sx={{ flex: 1 }}>
            {result && <Button variant="text" href={`/api/runs/${result.id}/result/`} download>Download the last result</Button>}
          </Box>
          <Button variant="outlined" onClick={onClose}>Cancel</Button>
          <Button variant="contained" type="submit" disabled={start.isPending || preview.isError}>Deliver the file</Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
