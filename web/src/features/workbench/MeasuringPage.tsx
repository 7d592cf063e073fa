import Box from "@mui/material/Box";
import LinearProgress from "@mui/material/LinearProgress";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useEffect, useRef } from "react";

import type { Recording } from "../../api/types";
import { columns, drawWaveform, sharpContext } from "../../pictures/waveform";
import { progressWords, RetryMeasuring, useRecordingOverview } from "../recordings";
import { useWidth } from "../../pictures/useWidth";

const BINS = 2000;
const HEIGHT = 120;

/** A recording that is not measured yet: its waveform grows while it is read. */
export function MeasuringPage({ recording }: { recording: Recording }) {
  const { colours } = useTheme();
  const [width, ref] = useWidth(1104);
  const canvas = useRef<HTMLCanvasElement>(null);
  const overview = useRecordingOverview(recording, BINS).data;
  const durationS = recording.duration_s ?? 0;
  useEffect(() => {
    const context = canvas.current && sharpContext(canvas.current, width, HEIGHT);
    if (!context || !overview) return;
    context.clearRect(0, 0, width, HEIGHT);
    const shape = columns(overview, 0, durationS, Math.round(width / 3));
    drawWaveform(context, shape, { left: 0, width, axis: HEIGHT, height: HEIGHT - 2, direction: -1 }, colours.before, "dB");
  }, [overview, durationS, width, colours]);
  if (recording.state === "failed") {
    return (
      <Box sx={{ pt: 4 }}>
        <Typography variant="h1">{recording.name}</Typography>
        <Typography role="status" sx={{ mt: 2 }}>
          It could not be measured: {recording.error}
        </Typography>
        <Box sx={{ mt: 4 }}><RetryMeasuring recording={recording} /></Box>
      </Box>
    );
  }
  const percent = Math.round(100 * recording.progress);
  return (
    <Box ref={ref} sx={{ pt: 4 }}>
      <Typography variant="h1">{recording.name}</Typography>
      <Typography role="status" sx={{ mt: 2 }}>
        {progressWords(recording)}
      </Typography>
      <Box sx={{ mt: 4, borderBottom: `1px solid ${colours.rule}` }}>
        <canvas
          ref={canvas} role="img" aria-label={`Waveform so far, ${percent} %`}
          style={{ width, height: HEIGHT, display: "block" }}
        />
      </Box>
      <LinearProgress variant="determinate" value={percent} aria-label="Measuring" sx={{ height: 8, borderRadius: "15px" }} />
    </Box>
  );
}
