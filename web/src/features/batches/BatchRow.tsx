import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { memo } from "react";
import { Link } from "react-router";

import type { BatchFile } from "../../api/types";
import { formatDb, formatPeak, formatTime, shownClearance } from "../../pictures/figures";
import { CautionIcon, CheckIcon, ClockIcon, CrossIcon } from "../../pictures/icons";
import { LevelLine } from "../../pictures/LevelLine";
import { useRetryRun } from "../runs";
import { RulesMet } from "../targets";
import { ListenButton } from "./ListenButton";

interface Props {
  run: BatchFile;
  unusual: readonly string[];
  paused: boolean;
}

/** One recording of a batch: its state, and its figures when it is done. Those that did not change are not drawn anew. */
export const BatchRow = memo(function BatchRow({ run, unusual, paused }: Props) {
  const { colours } = useTheme();
  return (
    <tr>
      <th scope="row" style={{ maxWidth: 260 }}>
        <Typography variant="h3" component={Link} to={`/recordings/${run.recording}`} sx={{ color: "inherit", textDecoration: "none" }}>
          {run.recording_name}
        </Typography>
        <State run={run} />
        {run.delivery && run.state === "done" && <Typography variant="caption" component="div">{run.delivery.file_name}</Typography>}
        {mendedWords(run) && <Typography variant="caption" component="div">{mendedWords(run)}</Typography>}
        {unusual.map((words) => (
          <Typography key={words} variant="caption" component="div" sx={{ color: colours.caution }}>
            <CautionIcon size={13} /> {words}
          </Typography>
        ))}
      </th>
      {run.state === "done" ? <Figures run={run} /> : <Rest run={run} paused={paused} />}
    </tr>
  );
});

/** "Mended: click 12, breath 5"; nothing where no repair found anything. */
function mendedWords(run: BatchFile): string | null {
  const found = Object.entries(run.mended).filter(([, count]) => count > 0);
  return found.length > 0 ? `Mended: ${found.map(([label, count]) => `${label.toLowerCase()} ${count}`).join(", ")}` : null;
}

function State({ run }: { run: BatchFile }) {
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

function Figures({ run }: { run: BatchFile }) {
  const { colours } = useTheme();
  const { before, after } = run;
  const pair = (from: number | null | undefined, to: number | null | undefined, figure = formatDb) => (
    <td>
      <Box sx={{ color: colours.beforeText }}>{figure(from)}</Box>
      <Box sx={{ color: colours.afterText, fontWeight: 680 }}>{figure(to)}</Box>
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
      {pair(shownClearance(before), shownClearance(after))}
      {pair(before?.integrated_lufs, (run.delivery?.measures ?? after)?.integrated_lufs)}
      {pair(before?.true_peak_dbtp, (run.delivery?.measures ?? after)?.true_peak_dbtp, formatPeak)}
      <td><RulesMet rules={run.delivery?.rules ?? []} targetName={run.delivery?.target_name} of={run.recording_name} /></td>
      <td style={{ textAlign: "right", whiteSpace: "nowrap" }}>
        {run.notes.length > 0 && (
          <Box component="span" title={run.notes.join("\n")} sx={{ color: colours.caution, mr: 2 }}>
            <CautionIcon size={16} /> {run.notes.length}
          </Box>
        )}
        <ListenButton run={run} />
        <Button
          variant="outlined" size="small" download href={run.delivery ? `/api/deliveries/${run.delivery.id}/file/` : `/api/runs/${run.id}/result/`}
          aria-label={`Download ${run.recording_name}`}
        >
          Download
        </Button>
        {run.delivery && (
          <Typography variant="caption" component="div" sx={{ mt: 1, display: "flex", gap: 3, justifyContent: "end" }}>
            <Link to={`/recordings/${run.recording}`} state={{ chain: run.chain }} title="With the chain of this file; undo brings back the recording’s own">To the workbench</Link>
            <a href={`/api/deliveries/${run.delivery.id}/receipt-page/`} target="_blank" rel="noreferrer" aria-label={`Receipt of ${run.recording_name}`}>Receipt</a>
          </Typography>
        )}
      </td>
    </>
  );
}

function Rest({ run, paused }: { run: BatchFile; paused: boolean }) {
  const { colours } = useTheme();
  const retry = useRetryRun();
  const ended = run.state === "failed" || run.state === "cancelled";
  return (
    <>
      <td colSpan={5}>
        {run.state === "failed" && <Typography sx={{ fontWeight: 600 }}>{run.error}</Typography>}
        {run.state === "running" && <Typography color="textSecondary">{run.doing}</Typography>}
        {run.state === "waiting" && (
          <Typography color="textSecondary">{paused ? "Waits until the batch goes on." : "Starts when those above are through."}</Typography>
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
