import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import { AskFirst } from "../../app/AskFirst";
import type { Mix } from "../../api/types";
import { formatDb, formatPeak } from "../../pictures/figures";
import { isBusy } from "../runs";
import { RulesMet } from "../targets";
import { useDeleteMix } from "./api";

/** Mixes that were ordered: how far they are, and what came out. */
export function MixList({ mixes, recordingId }: { mixes: readonly Mix[]; recordingId: string }) {
  const { colours } = useTheme();
  const remove = useDeleteMix(recordingId);
  const [doomed, setDoomed] = useState<Mix | null>(null);
  if (mixes.length === 0) return null;
  return (
    <Box component="section" aria-label="Mixes" sx={{ mt: 4 }}>
      <Typography variant="h3" component="h2">Mixes</Typography>
      <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0 }}>
        {mixes.map((mix) => (
          <Box key={mix.id} component="li" sx={{ display: "flex", alignItems: "center", gap: 3, py: 2, borderTop: `1px solid ${colours.rule}` }}>
            <Box sx={{ flex: 1, minWidth: 0 }}>
              <Typography noWrap sx={{ fontWeight: 600 }}>{mix.file_name}</Typography>
              <About mix={mix} />
            </Box>
            {mix.state === "done" && (
              <>
                <RulesMet rules={mix.rules} targetName={mix.target_name} of={mix.name} />
                <a href={`/api/mixes/${mix.id}/receipt-page/`} target="_blank" rel="noreferrer" aria-label={`Receipt of ${mix.name}`} style={{ fontSize: 13 }}>Receipt</a>
                <Button variant="outlined" size="small" download href={`/api/mixes/${mix.id}/file/`} aria-label={`Download ${mix.name}`}>Download</Button>
              </>
            )}
            {isBusy(mix)
              ? <Button variant="text" size="small" disabled={remove.isPending} onClick={() => remove.mutate(mix.id)} aria-label={`Stop ${mix.name}`}>Stop</Button>
              : <Button variant="text" size="small" onClick={() => setDoomed(mix)} aria-label={`Delete ${mix.name}`}>Delete</Button>}
          </Box>
        ))}
      </Box>
      <AskFirst
        open={doomed !== null} title={`Delete the mix ${doomed?.name ?? ""}?`} action="Delete" onNo={() => setDoomed(null)}
        onYes={() => {
          if (doomed) remove.mutate(doomed.id);
          setDoomed(null);
        }}
      >
        Its file and its receipt go with it; the result and the bed stay.
      </AskFirst>
      {remove.error && <Typography sx={{ color: colours.fail }}>{remove.error.message}</Typography>}
    </Box>
  );
}

function About({ mix }: { mix: Mix }) {
  const { colours } = useTheme();
  if (isBusy(mix)) {
    return (
      <>
        <Typography variant="caption" component="div">{mix.state === "waiting" ? "Waiting" : `${Math.round(100 * mix.progress)} %${mix.doing ? `, ${mix.doing}` : ""}`}</Typography>
        <LinearProgress variant="determinate" value={100 * mix.progress} aria-label={`Making ${mix.name}`} sx={{ maxWidth: 360 }} />
      </>
    );
  }
  if (mix.state !== "done") return <Typography variant="caption" component="div" sx={{ color: colours.fail }}>{mix.error || "Stopped."}</Typography>;
  return (
    <Typography variant="caption" component="div" color="textSecondary">
      {mix.target_name ? `${mix.target_name}: ` : ""}{formatDb(mix.measures?.integrated_lufs)} LUFS, true peak {formatPeak(mix.measures?.true_peak_dbtp)} dBTP, {(mix.size_bytes / 1e6).toFixed(1)} MB
    </Typography>
  );
}
