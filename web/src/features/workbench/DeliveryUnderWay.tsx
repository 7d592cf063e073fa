import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import Typography from "@mui/material/Typography";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

import { useBatch } from "../batches";
import { isBusy, runKeys, useCancelRun } from "../runs";
import { RuleList } from "../targets";
import { download } from "../../api/download";

interface Props {
  batchId: string;
  onClose: () => void;
  onAgain: () => void;
}

/** One file being made: how far it is; then it is downloaded and its rules are shown. */
export function DeliveryUnderWay({ batchId, onClose, onAgain }: Props) {
  const client = useQueryClient();
  const batch = useBatch(batchId);
  const cancel = useCancelRun();
  const run = batch.data?.runs[0];
  const file = run?.state === "done" ? run.delivery : null;
  const address = file ? `/api/deliveries/${file.id}/file/` : null;
  const fetched = useRef<string | null>(null);
  useEffect(() => {
    if (address === null || fetched.current === address) return;
    fetched.current = address;
    download(address);
    void client.invalidateQueries({ queryKey: runKeys.all });
  }, [address, client]);
  if (batch.error) return <Alert severity="error">{batch.error.message}</Alert>;
  if (!run || isBusy(run)) {
    return (
      <Box sx={{ display: "grid", gap: 2 }}>
        <Typography role="status">{run?.doing ? `Making the file: ${run.doing}` : "Making the file …"}</Typography>
        <LinearProgress variant="determinate" aria-label="Making the file" value={100 * (run?.progress ?? 0)} />
        {run && <Button variant="outlined" size="small" sx={{ justifySelf: "start" }} onClick={() => cancel.mutate(run.id)}>Stop</Button>}
      </Box>
    );
  }
  if (!file || address === null) {
    return (
      <Alert severity="error" action={<Button size="small" onClick={onAgain}>Try again</Button>}>
        {run.error || "The file was not made."}
      </Alert>
    );
  }
  return (
    <Box sx={{ display: "grid", gap: 3 }}>
      <Typography role="status"><b>{file.file_name}</b> is made and downloaded. It stays under <i>Results</i>.</Typography>
      {file.rules.length > 0 && <RuleList rules={file.rules} />}
      <Box sx={{ display: "flex", gap: 3, alignItems: "center", flexWrap: "wrap" }}>
        <Button variant="contained" onClick={onClose}>Close</Button>
        <Button variant="outlined" download href={address}>Download again</Button>
        <a href={`/api/deliveries/${file.id}/receipt-page/`} target="_blank" rel="noreferrer">Receipt</a>
      </Box>
    </Box>
  );
}
