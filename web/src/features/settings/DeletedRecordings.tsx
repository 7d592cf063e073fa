import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import { AskFirst } from "../../app/AskFirst";
import { formatBytes } from "../../pictures/figures";
import { useTakeBack } from "../recordings";
import { useMakeRoom, usePutAway } from "./api";

const day = (date: string | null | undefined) => (date ? new Date(date).toLocaleDateString() : "");

/** What can be taken back, or removed now. */
export function DeletedRecordings() {
  const { colours } = useTheme();
  const away = usePutAway();
  const back = useTakeBack();
  const remove = useMakeRoom();
  const [asking, setAsking] = useState(false);
  const error = away.error ?? back.error ?? remove.error;
  const rows = away.data ?? [];
  const total = rows.reduce((sum, row) => sum + row.size_bytes, 0);
  return (
    <>
      {error && <Alert severity="error" sx={{ mb: 3 }}>{error.message}</Alert>}
      {away.data && rows.length === 0 && <Typography variant="body2">None.</Typography>}
      {rows.map((row) => (
        <Box key={row.id} sx={{ display: "flex", alignItems: "center", gap: 3, py: 1, borderBottom: `1px solid ${colours.rule}` }}>
          <Typography variant="body2" sx={{ flex: 1 }}>
            <b>{row.name}</b> {row.label}
          </Typography>
          <Typography variant="body2" color="textSecondary">deleted {day(row.deleted_at)}, kept until {day(row.goes_at)}</Typography>
          <Typography variant="body2" sx={{ width: 80, textAlign: "right" }}>{formatBytes(row.size_bytes)}</Typography>
          <Button size="small" variant="outlined" aria-label={`Take back ${row.name}`} disabled={back.isPending} onClick={() => back.mutate([row.id])}>Take back</Button>
        </Box>
      ))}
      {rows.length > 0 && (
        <Button size="small" variant="text" sx={{ mt: 2 }} disabled={remove.isPending} onClick={() => setAsking(true)}>Remove all of them now</Button>
      )}
      <AskFirst
        open={asking} title={`Remove ${rows.length} deleted recording${rows.length === 1 ? "" : "s"}?`} action="Remove for good" onNo={() => setAsking(false)}
        onYes={() => {
          remove.mutate("put-away");
          setAsking(false);
        }}
      >
        This frees {formatBytes(total)} and cannot be taken back: the files that came in, their results and deliveries. Room tones learned from them stay.
      </AskFirst>
    </>
  );
}
