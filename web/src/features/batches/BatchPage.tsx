import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";

import { AskFirst } from "../../app/AskFirst";
import type { WholeBatch } from "../../api/types";
import { DownloadIcon } from "../../pictures/icons";
import { useBatch, useCancelBatch, useDeleteBatch, usePauseBatch } from "./api";
import { BatchRow } from "./BatchRow";
import { ProgressStrip } from "./ProgressStrip";
import { batchProgress, madeWith } from "./progress";

const NOTHING_UNUSUAL: string[] = [];

/** One batch: watch it, stop it, fetch its results. */
export function BatchPage() {
  const { batchId = "" } = useParams();
  const batch = useBatch(batchId);
  if (batch.error) {
    return (
      <Box sx={{ pt: 2 }}>
        <Typography variant="h1">This batch cannot be opened</Typography>
        <Alert severity="error" sx={{ mt: 3 }}>
          {batch.error.message} <Link to="/batches">All batches</Link>
        </Alert>
      </Box>
    );
  }
  if (!batch.data) return <Typography sx={{ pt: 4 }}>Opening the batch …</Typography>;
  return <BatchView batch={batch.data} now={batch.dataUpdatedAt} />;
}

function BatchView({ batch, now }: { batch: WholeBatch; now: number }) {
  const { colours } = useTheme();
  const cancel = useCancelBatch();
  const pause = usePauseBatch();
  const remove = useDeleteBatch();
  const navigate = useNavigate();
  const [asking, setAsking] = useState(false);
  const p = batchProgress(batch.runs, now);
  const busy = p.running + p.waiting > 0;
  return (
    <Box>
      <Box sx={{ display: "flex", alignItems: "start", gap: 3, pt: 2, pb: 3 }}>
        <Box sx={{ flex: 1, minWidth: 0 }}>
          <Typography variant="h1">{batch.name}</Typography>
          <Typography variant="body2" color="textSecondary">
            {madeWith(batch)}, named {batch.name_pattern}.{" "}
            <Link to="/batches">
              All batches
            </Link>
          </Typography>
        </Box>
        {busy && (
          <Button variant="outlined" onClick={() => pause.mutate({ id: batch.id, pause: !batch.paused })}>
            {batch.paused ? "Go on" : "Pause"}
          </Button>
        )}
        {busy ? (
          <Button variant="outlined" onClick={() => cancel.mutate(batch.id)}>
            Cancel
          </Button>
        ) : (
          <Button variant="outlined" onClick={() => setAsking(true)}>
            Delete
          </Button>
        )}
        <Button variant="outlined" component={Link} to="/batches" state={{ like: { ...batch, runs: [], unusual: {} } }} title="Compose a batch set up as this one">
          New batch with these settings
        </Button>
        <Button
          variant="contained" startIcon={<DownloadIcon size={16} />} disabled={p.done === 0}
          href={`/api/batches/${batch.id}/download/`} download
        >
          Download {p.done} done
        </Button>
      </Box>
      {batch.paused && busy && (
        <Alert severity="info" sx={{ mb: 3 }}>Paused: what is at work is finished, nothing further begins until you go on.</Alert>
      )}
      <ProgressStrip runs={batch.runs} progress={p} />
      <Box
        component="table"
        sx={{
          width: "100%", mt: 5, borderCollapse: "collapse",
          "& td, & th": { textAlign: "left", py: 3, pr: 4, verticalAlign: "middle", fontWeight: 400 },
          "& thead th": { borderBottom: `1.5px solid ${colours.ink}`, py: 1.5, fontSize: 13 },
          "& tbody tr": { borderBottom: `1px solid ${colours.rule}` },
        }}
      >
        <thead>
          <tr>
            <th scope="col">
              <b>Recording</b>
            </th>
            <th scope="col">
              <b>
                Levels, <span style={{ color: colours.beforeText }}>before</span> and{" "}
                <span style={{ color: colours.afterText }}>after</span>
              </b>
              <Typography variant="caption" component="div" color="textSecondary">
                ▫ noise, ● voice, ▵ peak
              </Typography>
            </th>
            <Unit name="Clearance" unit="dB" />
            <Unit name="Loudness" unit="LUFS" />
            <Unit name="True peak" unit="dBTP" />
            <th scope="col"><b>Target</b></th>
            <th scope="col">
              <span className="visually-hidden" style={{ position: "absolute", left: -9999 }}>
                Result
              </span>
            </th>
          </tr>
        </thead>
        <tbody>
          {batch.runs.map((run) => (
            <BatchRow key={run.id} run={run} unusual={batch.unusual[run.id] ?? NOTHING_UNUSUAL} paused={batch.paused} />
          ))}
        </tbody>
      </Box>
      <Typography variant="body2" color="textSecondary" sx={{ mt: 4 }}>
        You can close this page; the work goes on.
      </Typography>
      <AskFirst
        open={asking}
        title={`Delete the batch ${batch.name}?`}
        action="Delete"
        onNo={() => setAsking(false)}
        onYes={() => remove.mutate(batch.id, { onSuccess: () => navigate("/batches") })}
      >
        Its finished files go with it; the recordings stay.
      </AskFirst>
    </Box>
  );
}

function Unit({ name, unit }: { name: string; unit: string }) {
  return (
    <th scope="col">
      <b>{name}</b>
      <Typography variant="caption" component="div" color="textSecondary">
        {unit}
      </Typography>
    </th>
  );
}
