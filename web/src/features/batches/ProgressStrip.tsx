import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";

import type { BatchFile } from "../../api/types";
import { CheckIcon } from "../../pictures/icons";
import type { BatchProgress } from "./progress";

/** One piece per recording, as long as it lasts; ink is done, a dashed piece has stopped. */
export function ProgressStrip({ runs, progress: p }: { runs: BatchFile[]; progress: BatchProgress }) {
  const { colours } = useTheme();
  const parts = [`${p.done} done`];
  if (p.running > 0) parts.push(`${p.running} running`);
  if (p.waiting > 0) parts.push(`${p.waiting} waiting`);
  return (
    <Box>
      <Box sx={{ display: "flex", alignItems: "baseline", gap: 4, mb: 2 }}>
        <Typography variant="h2" component="p">
          {Math.round(100 * p.share)} %
        </Typography>
        <Typography variant="body2" role="status">
          {parts.join(", ")}
          {p.stopped > 0 && (
            <Box component="span" sx={{ color: colours.fail, fontWeight: 650 }}>
              , {p.stopped} stopped
            </Box>
          )}
        </Typography>
        <Box sx={{ flex: 1 }} />
        {p.speed !== null && p.leftS !== null && (
          <Typography variant="body2">
            {p.speed.toFixed(0)} times faster than listening, <b>about {Math.ceil(p.leftS)} s left</b>
          </Typography>
        )}
      </Box>
      <Box
        role="progressbar" aria-label="Batch" aria-valuemin={0} aria-valuemax={100}
        aria-valuenow={Math.round(100 * p.share)} sx={{ display: "flex", gap: "3px", height: 14 }}
      >
        {runs.map((run) => {
          const stopped = run.state === "failed" || run.state === "cancelled";
          const share = run.state === "done" ? 1 : run.progress;
          return (
            <Box
              key={run.id} title={run.recording_name}
              sx={{
                flex: run.duration_s, borderRadius: 2, overflow: "hidden", position: "relative",
                display: "flex", justifyContent: "center", alignItems: "center",
                color: colours.onInk,
                border: stopped ? `1.5px dashed ${colours.fail}` : "none",
                background: stopped
                  ? "transparent"
                  : `linear-gradient(to right, ${colours.ink} ${100 * share}%, ${colours.rule} ${100 * share}%)`,
              }}
            >
              {run.state === "done" && <CheckIcon size={12} />}
            </Box>
          );
        })}
      </Box>
    </Box>
  );
}
