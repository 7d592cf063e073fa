import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Popover from "@mui/material/Popover";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Link } from "react-router";

import type { Recording, Run, Target } from "../../api/types";
import { CheckIcon } from "../../pictures/icons";
import { RuleList, useCheck } from "../targets";
import { NO_CHAIN } from "./chainWords";

interface Props {
  recording: Recording;
  targets: readonly Target[];
  result: Run | null;
  /** The chain has changed since the result. */
  outdated: boolean;
  canFit: boolean;
  onChoose: (target: string | null) => void;
  onFit: () => void;
}

/** What the delivery must meet, how many of its rules are met, and what to do about the rest. */
export function TargetButton({ recording, targets, result, outdated, canFit, onChoose, onFit }: Props) {
  const { colours } = useTheme();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const target = targets.find((t) => t.id === recording.target) ?? null;
  const check = useCheck(target?.id ?? null, result ? { run: result.id } : { recording: recording.id });
  const rules = (target && check.data) || [];
  const met = rules.filter((rule) => rule.is_met === true).length;
  const all = rules.length > 0 && met === rules.length;
  const of = result === null ? "as recorded" : outdated ? "by the last run" : "";
  const words = target === null ? "No target" : `${target.name}: ${met} of ${rules.length} met${of === "" ? "" : `, ${of}`}`;
  const missing = rules.filter((rule) => rule.is_met !== true);
  return (
    <>
      <Button
        size="small" variant="text" aria-haspopup="dialog" onClick={(event) => setAnchor(event.currentTarget)} startIcon={all && !outdated ? <CheckIcon size={14} /> : undefined}
        sx={{ whiteSpace: "nowrap", flexShrink: 0, fontWeight: 600, px: 2, py: 0, minWidth: 0, color: all && !outdated ? colours.pass : colours.ink, backgroundColor: colours.pith, "&:hover": { backgroundColor: colours.rule } }}
      >
        {words}
      </Button>
      <Popover open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)} anchorOrigin={{ vertical: "bottom", horizontal: "left" }} slotProps={{ paper: { sx: { p: 4, width: 480, borderRadius: "14px", display: "grid", gap: 3 }, role: "dialog", "aria-label": "Target" } }}>
        <TextField select size="small" label="Target" value={target?.id ?? ""} onChange={(event) => onChoose(event.target.value === "" ? null : event.target.value)} slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}>
          <MenuItem value="">none</MenuItem>
          {targets.map((t) => <MenuItem key={t.id} value={t.id}>{t.name}</MenuItem>)}
        </TextField>
        {target && rules.length > 0 && <RuleList rules={rules} />}
        {target && rules.length === 0 && <Typography variant="body2">Its rules are about the kind of file, which is judged when it is delivered.</Typography>}
        {target && (
          <Box sx={{ display: "flex", gap: 3, alignItems: "center" }}>
            <Button variant="contained" sx={{ flexShrink: 0 }} disabled={!canFit} onClick={() => { setAnchor(null); onFit(); }}>Fit the last steps</Button>
            <Typography variant="caption" color="textSecondary">{advice(missing.map((rule) => rule.name), canFit)}</Typography>
          </Box>
        )}
        <Typography variant="caption"><Link to="/targets">All targets</Link></Typography>
      </Popover>
    </>
  );
}

/** What fitting can and cannot do about the rules that are missed. */
function advice(missing: string[], canFit: boolean): string {
  if (!canFit) return `${NO_CHAIN}.`;
  const said = ["Sets limiter and loudness to meet it, and runs the chain."];
  if (missing.includes("noise_floor_dbfs")) said.push("The noise floor needs noise reduction or a gate, earlier in the chain.");
  if (missing.includes("head_s") || missing.includes("tail_s")) said.push("Head and tail are set under “Timing”, and for each file of a batch by itself.");
  return said.join(" ");
}
