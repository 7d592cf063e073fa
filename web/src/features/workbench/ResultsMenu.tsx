import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Popover from "@mui/material/Popover";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Run, Step, StepType } from "../../api/types";
import { CheckIcon } from "../../pictures/icons";
import { differences } from "../../chains/differences";
import { useNameRun } from "../runs";

interface Props {
  results: readonly Run[];
  /** Runs that made a file to deliver. */
  delivered: readonly Run[];
  shown: Run | null;
  steps: Step[];
  types: readonly StepType[];
  onChoose: (id: string) => void;
}

const MOST_WORDS = 70;

/** Earlier results, to hear and see as "after" and to name; and the files made of this recording. */
export function ResultsMenu({ results, delivered, shown, steps, types, onChoose }: Props) {
  const { colours } = useTheme();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const name = useNameRun();
  if (results.length === 0 && delivered.length === 0) return null;
  const words = (run: Run) => {
    const changes = differences(run.chain as Step[], steps, types).join("; ");
    return changes === "" ? "the chain as it is now" : `now different: ${changes.length > MOST_WORDS ? `${changes.slice(0, MOST_WORDS)} …` : changes}`;
  };
  return (
    <>
      <Button size="small" variant="text" aria-haspopup="dialog" title="Which result is heard as after, and the files made" onClick={(event) => setAnchor(event.currentTarget)} sx={{ fontWeight: 500, whiteSpace: "nowrap", flexShrink: 0 }}>
        {shown ? resultName(shown) : "Results"}
      </Button>
      <Popover
        anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)} anchorOrigin={{ vertical: "bottom", horizontal: "left" }}
        slotProps={{ paper: { role: "dialog", "aria-label": "Results", sx: { borderRadius: "14px", p: 4, width: 560, display: "grid", gap: 2 } } }}
      >
        <Typography variant="h3" component="h2">Results</Typography>
        {results.map((run) => (
          <Box key={run.id} sx={{ display: "flex", gap: 2, alignItems: "center" }}>
            <Button
              size="small" variant={run.id === shown?.id ? "contained" : "outlined"} aria-pressed={run.id === shown?.id} onClick={() => onChoose(run.id)}
              startIcon={run.id === shown?.id ? <CheckIcon size={14} /> : undefined} sx={{ flexShrink: 0 }}
            >
              {clock(run)}
            </Button>
            <TextField
              size="small" variant="standard" placeholder="Name it" defaultValue={run.label} sx={{ width: 130, flexShrink: 0 }}
              slotProps={{ htmlInput: { "aria-label": `Name of the result of ${clock(run)}`, maxLength: 120 } }}
              onBlur={(event) => {
                const label = event.target.value.trim();
                if (label !== run.label) name.mutate({ id: run.id, label });
              }}
              onKeyDown={(event) => event.key === "Enter" && (event.target as HTMLElement).blur()}
            />
            <Typography variant="body2" sx={{ color: colours.muted, minWidth: 0 }}>{words(run)}</Typography>
          </Box>
        ))}
        {name.error && <Typography role="alert" variant="body2" sx={{ color: colours.fail }}>{name.error.message}</Typography>}
        {delivered.length > 0 && <Typography variant="h3" component="h2" sx={{ mt: 2 }}>Delivered files</Typography>}
        {delivered.map((run) => run.delivery && (
          <Typography key={run.id} variant="body2">
            <a href={`/api/deliveries/${run.delivery.id}/file/`} download>{run.delivery.file_name}</a>{" "}
            <Box component="span" sx={{ color: colours.muted }}>
              {clock(run)}{run.delivery.target_name ? `, ${run.delivery.target_name}` : ""},{" "}
              <a href={`/api/deliveries/${run.delivery.id}/receipt-page/`} target="_blank" rel="noreferrer">receipt</a>
            </Box>
          </Typography>
        ))}
      </Popover>
    </>
  );
}

const resultName = (run: Run) => (run.label === "" ? `Result of ${clock(run)}` : run.label);

/** When it was asked for, to the second: two results of one minute are two. */
const clock = (run: Run) =>
  new Date(run.created_at).toLocaleString(undefined, { month: "short", day: "numeric", hour: "2-digit", minute: "2-digit", second: "2-digit" });
