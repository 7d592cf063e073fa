import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";

import type { Recording } from "../../api/types";
import { useRetryMeasuring } from "./api";

/** Measures a recording again that could not be measured. */
export function RetryMeasuring({ recording }: { recording: Recording }) {
  const retry = useRetryMeasuring();
  return (
    <>
      <Button
        variant="outlined" size="small" disabled={retry.isPending} aria-label={`Try again: ${recording.name}`}
        onClick={() => retry.mutate(recording.id)} sx={{ flexShrink: 0 }}
      >
        Try again
      </Button>
      {retry.error && <Typography role="alert" variant="body2">{retry.error.message}</Typography>}
    </>
  );
}
