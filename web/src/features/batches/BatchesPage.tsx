import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { Link } from "react-router";

import { useBatches } from "./api";
import { Compose } from "./Compose";
import { madeWith } from "./progress";

/** Compose a batch; those there are. */
export function BatchesPage() {
  const { colours } = useTheme();
  const batches = useBatches();
  return (
    <Box sx={{ maxWidth: 1120 }}>
      <Typography variant="h1" sx={{ pt: 2 }}>
        Batches
      </Typography>
      <Typography variant="body2" color="textSecondary" sx={{ pb: 4 }}>
        A recipe over many recordings, towards one target. A file that fails never stops the others.
      </Typography>
      <Compose />
      <Typography variant="h2" sx={{ mt: 8, mb: 2 }}>
        Earlier batches
      </Typography>
      {batches.error && <Alert severity="error">{batches.error.message}</Alert>}
      {batches.data?.length === 0 && <Typography>None yet.</Typography>}
      {batches.data?.map((batch) => (
          <Box key={batch.id} sx={{ display: "flex", gap: 5, py: 3, borderTop: `1px solid ${colours.rule}` }}>
            <Typography variant="h3" component={Link} to={`/batches/${batch.id}`} sx={{ flex: 1, color: "inherit" }}>
              {batch.name}
            </Typography>
            <Typography variant="body2">
              {madeWith(batch)}
            </Typography>
            <Typography variant="body2" sx={{ width: 220 }}>
              {batch.done} of {batch.done + batch.to_go + batch.stopped} done
              {batch.to_go > 0 && `, ${batch.to_go} to go`}
              {batch.stopped > 0 && (
                <Box component="span" sx={{ color: colours.fail }}>
                  , {batch.stopped} stopped
                </Box>
              )}
            </Typography>
          </Box>
      ))}
    </Box>
  );
}
