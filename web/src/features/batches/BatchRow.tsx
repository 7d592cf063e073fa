import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { Link } from "react-router";

import type { Run } from "../../api/types";
import { formatDb, formatTime } from "../../pictures/figures";
import { CautionIcon, CheckIcon, ClockIcon, CrossIcon } from "../../pictures/icons";
import { LevelLine } from "../../pictures/LevelLine";
import { useRetryRun } from "../runs";

/** One recording of a batch: its state, and its figures when it is done. */
export function BatchRow({ run }: { run: Run }) {
  return (
    <tr>
      <th scope="row" style={{ maxWidth: 260 }}>
        <Typography variant="h3" component={Link} to={`/recordings/${run.recording}`} sx={{ color: "inherit", textDecoration: "none" }}>
          {run.recording_name}
        </Typography>
        <State run={run} />
      </th>
      {run.state === "done" ? <Figures run={run} /> : <Rest run={run} />}
    </tr>
  );
}

function State({ run }: { run: Run }) {
  const { colours } = useTheme();
  const told = {
    done: { icon: <CheckIcon size={14} />, text: "done", colour: colours.pass },
    running: { icon: null, text: `running, ${Math.round(100 * run.progress)} %`, colour: colours.ink },
    waiting: { icon: <ClockIcon size={14} />, text: "waiting", colour: colours.muted },
    failed: { icon: <CrossIcon size={14} />, text: "stopped", colour: colours.fail },
    cancelled: { icon: <CrossIcon size={14} />, text: "cancelled", colour: colours.muted },
  }[run.state];
  return (
    <Typography variant="body2">
      <Box component="span" sx={{ color: told.colour, fontWeight: 600 }}>
        {told.icon} {told.text}
      </Box>{" "}
      {formatTime(run.duration_s)}
    </Typography>
  );
}

function Figures({ run }: { run: Run }) {
  const { colours } = useTheme();
  const { before, after } = run;
  const pair = (from: number | null | undefined, to: number | null | undefined) => (
    <td>
      <Box sx={{ color: colours.beforeText }}>{formatDb(from)}</Box>
      <Box sx={{ color: colours.afterText, fontWeight: 680 }}>{formatDb(to)}</Box>
    </td>
  );
  return (
    <>
      <td>
        {([["before", before], ["after", after]] as const).map(([side, m]) => (
          <Box key={side} sx={{ height: 24 }}>
            <LevelLine
              side={side} width={210} noise={m?.noise_floor_dbfs} voice={m?.voice_level_dbfs}
              peak={m?.true_peak_dbtp}
            />
          </Box>
        ))}
      </td>
      {pair(before?.clearance_db, after?.clearance_db)}
      {pair(before?.voice_level_dbfs, after?.voice_level_dbfs)}
      {pair(before?.integrated_lufs, after?.integrated_lufs)}
      {pair(before?.true_peak_dbtp, after?.true_peak_dbtp)}
      <td style={{ textAlign: "right" }}>
        {run.notes.length > 0 && (
          <Box component="span" title={run.notes.join("\n")} sx={{ color: colours.caution, mr: 2 }}>
            <CautionIcon size={16} /> {run.notes.length}
          </Box>
        )}
        <Button
          variant="outlined" size="small" href={`/api/runs/${run.id}/result/`} download
          aria-label={`Download ${run.recording_name}`}
        >
          Download
        </Button>
      </td>
    </>
  );
}

function Rest({ run }: { run: Run }) {
  const { colours } = useTheme();
  const retry = useRetryRun();
  const ended = run.state === "failed" || run.state === "cancelled";
  return (
    <>
      <td colSpan={5}>
        {run.state === "failed" && <Typography sx={{ fontWeight: 600 }}>{run.error}</Typography>}
        {run.state === "running" && <Typography color="textSecondary">{run.doing}</Typography>}
        {run.state === "waiting" && (
          <Typography color="textSecondary">Starts when those above are through.</Typography>
        )}
        {retry.error && (
          <Typography sx={{ color: colours.fail }}>{retry.error.message}</Typography>
        )}
      </td>
      <td style={{ textAlign: "right" }}>
        {ended && (
          <Button
            variant="outlined" size="small" onClick={() => retry.mutate(run.id)}
            aria-label={`Retry ${run.recording_name}`}
          >
            Retry
          </Button>
        )}
      </td>
    </>
  );
}
