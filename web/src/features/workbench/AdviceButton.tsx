import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Popover from "@mui/material/Popover";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Finding, Step } from "../../api/types";
import { formatTime } from "../../pictures/figures";
import { CautionIcon, CheckIcon } from "../../pictures/icons";
import { isTaken } from "./adviceActs";

interface Props {
  advice: readonly Finding[];
  steps: Step[];
  /** Do what a finding proposes. */
  onAct: (finding: Finding) => void;
  onGoTo: (timeS: number) => void;
}

/** How many findings the intake has; the list with one thing to do about each. */
export function AdviceButton({ advice, steps, onAct, onGoTo }: Props) {
  const { colours } = useTheme();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  if (advice.length === 0) return null;
  return (
    <>
      <Button
        size="small" variant="text" aria-haspopup="dialog" onClick={(event) => setAnchor(event.currentTarget)}
        startIcon={<CautionIcon size={14} />} sx={{ color: colours.caution, whiteSpace: "nowrap", minHeight: 26 }}
      >
        {advice.length} {advice.length === 1 ? "finding" : "findings"}
      </Button>
      <Popover
        open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: "bottom", horizontal: "left" }}
        slotProps={{ paper: { role: "dialog", "aria-label": "Findings about the recording", sx: { width: 560, p: 5, border: `1px solid ${colours.rule}`, borderRadius: "15px" } } }}
      >
        <Typography variant="h3" component="h2" sx={{ mb: 2 }}>
          What was found at the intake
        </Typography>
        <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0 }}>
          {advice.map((finding) => (
            <Box
              key={finding.code} component="li"
              sx={{ display: "flex", gap: 4, alignItems: "center", py: 2, borderTop: `1px solid ${colours.rule}` }}
            >
              <Box sx={{ flex: 1 }}>
                <Typography variant="body2">{finding.text}</Typography>
                <Times at={finding.at_s} onGoTo={onGoTo} />
              </Box>
              {finding.act && (
                isTaken(finding, steps) ? (
                  <Typography variant="body2" sx={{ color: colours.pass, whiteSpace: "nowrap" }}>
                    <CheckIcon size={14} /> in the chain
                  </Typography>
                ) : (
                  <Button
                    size="small" variant="outlined" sx={{ maxWidth: 190 }}
                    onClick={() => {
                      onAct(finding);
                      if (finding.act?.kind !== "add_step") setAnchor(null);
                    }}
                  >
                    {finding.act.text}
                  </Button>
                )
              )}
            </Box>
          ))}
        </Box>
      </Popover>
    </>
  );
}

const MOST_TIMES = 8;

function Times({ at, onGoTo }: { at: readonly number[]; onGoTo: (timeS: number) => void }) {
  if (at.length === 0) return null;
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
      {at.slice(0, MOST_TIMES).map((timeS) => (
        <Button
          key={timeS} size="small" variant="text" sx={{ minWidth: 0, px: 1.5, minHeight: 24, fontWeight: 500 }}
          onClick={() => onGoTo(timeS)} aria-label={`Go to ${formatTime(timeS)}`}
        >
          {formatTime(timeS)}
        </Button>
      ))}
      {at.length > MOST_TIMES && (
        <Typography variant="caption" color="textSecondary" sx={{ alignSelf: "center" }}>
          and {at.length - MOST_TIMES} more
        </Typography>
      )}
    </Box>
  );
}
