import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import { useTheme } from "@mui/material/styles";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { Link as RouterLink, useParams } from "react-router";

import type { Run } from "../../api/types";
import { howMeasured } from "../../pictures/Figure";
import { formatChange, formatDb } from "../../pictures/figures";
import { DownloadIcon } from "../../pictures/icons";
import { useWidth } from "../../pictures/useWidth";
import { useRuns } from "../runs";
import { asCsv, measureRows, thirdOctaves } from "./measureRows";
import { TonePicture } from "./TonePicture";

/** What the last finished run has changed, in words, figures and a picture. */
export function ComparePage() {
  const { recordingId = "" } = useParams();
  const runs = useRuns(recordingId);
  const run = runs.data?.find((r) => r.state === "done" && r.before && r.after);
  if (runs.error) return <Told title="This cannot be compared" words={runs.error.message} recordingId={recordingId} />;
  if (!runs.data) return <Typography sx={{ pt: 4 }}>Opening …</Typography>;
  if (!run) return <Told title="Nothing to compare yet" words="Run the chain first; then before and after stand side by side here." recordingId={recordingId} />;
  return <Comparison run={run} />;
}

function Told({ title, words, recordingId }: { title: string; words: string; recordingId: string }) {
  return (
    <Box sx={{ pt: 2 }}>
      <Typography variant="h1">{title}</Typography>
      <Typography sx={{ mt: 3 }}>{words} <Link component={RouterLink} to={`/recordings/${recordingId}`}>Go to the workbench</Link></Typography>
    </Box>
  );
}

function Comparison({ run }: { run: Run }) {
  const { colours } = useTheme();
  const [width, ref] = useWidth(560);
  if (!run.before || !run.after) return null;
  const rows = measureRows(run.before, run.after);
  const bands = thirdOctaves(run.before, run.after);
  const louderDb = rows.find((r) => r.name === "integrated_lufs")?.change ?? 0;
  const words = run.differences.length > 0 ? `${run.differences.join("; ")}.` : "Nothing that would be heard has changed.";
  return (
    <Box>
      <Box sx={{ display: "flex", alignItems: "center", gap: 3, pt: 2 }}>
        <Box sx={{ flex: 1 }}>
          <Typography variant="h1">{run.recording_name}: before and after</Typography>
          <Typography variant="body2" color="textSecondary">
            Result of {new Date(run.created_at).toLocaleString()}. <Link component={RouterLink} to={`/recordings/${run.recording}`}>Listen on the workbench</Link>
          </Typography>
        </Box>
        <Button variant="outlined" startIcon={<DownloadIcon size={16} />} href={`data:text/csv;charset=utf-8,${encodeURIComponent(asCsv(run))}`} download={`${run.recording_name}.csv`}>
          Figures as CSV
        </Button>
      </Box>
      <Typography role="status" sx={{ my: 4, fontSize: 16, fontWeight: 600 }}>{words.charAt(0).toUpperCase() + words.slice(1)}</Typography>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 8 }}>
        <Box component="table" aria-label="Measures" sx={{ borderCollapse: "collapse", flex: "1 1 460px", "& td, & th": { py: 1.5, textAlign: "right" }, "& th:first-of-type, & td:first-of-type": { textAlign: "left" }, "& tbody tr": { borderTop: `1px solid ${colours.rule}` } }}>
          <thead>
            <tr>
              <th scope="col">Measure</th>
              <Box component="th" scope="col" sx={{ color: colours.beforeText }}>Before</Box>
              <Box component="th" scope="col" sx={{ color: colours.afterText }}>After</Box>
              <th scope="col">Difference</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.name}>
                <td>
                  <Tooltip title={howMeasured[row.name]} describeChild placement="top-start">
                    <span tabIndex={0}>{row.label}, {row.unit}</span>
                  </Tooltip>
                </td>
                <td>{formatDb(row.before)}</td>
                <td><b>{formatDb(row.after)}</b></td>
                <td>{row.change === null ? "–" : formatChange(row.change)}</td>
              </tr>
            ))}
          </tbody>
        </Box>
        <Box ref={ref} sx={{ flex: "1 1 460px", minWidth: 0 }}>
          <Typography variant="h3" component="h2">Tone, in third octaves</Typography>
          <Typography variant="caption" color="textSecondary" component="p" sx={{ mb: 2 }}>
            dBFS; after is shown {formatChange(-louderDb)} dB, as loud as before. Below: the difference, dB.
          </Typography>
          {bands.length > 0 && <TonePicture bands={bands} width={width} height={380} louderDb={louderDb} />}
        </Box>
      </Box>
    </Box>
  );
}
