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
  /** Findings about the recording, and about the chain as it is set. */
  intake: readonly Finding[];
  chain: readonly Finding[];
  dismissed: readonly string[];
  steps: Step[];
  /** Where the list opens when it is called from elsewhere. */
  anchor: HTMLElement | null;
  onAnchor: (anchor: HTMLElement | null) => void;
  /** Do what a finding proposes. */
  onAct: (finding: Finding) => void;
  onGoTo: (timeS: number) => void;
  onDismiss: (dismissed: string[]) => void;
  /** Make the chain that was made for the recording its chain; undefined while there is none. */
  onMendAll?: (() => void) | undefined;
}

/** How many findings there are; the lists, with one thing to do about each. */
export function AdviceButton({ intake, chain, dismissed, anchor, onAnchor, onDismiss, onMendAll, ...rest }: Props) {
  const { colours } = useTheme();
  const [all, setAll] = useState(false);
  const open = (finding: Finding) => all || !dismissed.includes(finding.code);
  const told = [...intake, ...chain];
  const count = told.filter((f) => !dismissed.includes(f.code)).length;
  const hidden = told.length - count;
  if (told.length === 0) return null;
  const dismiss = (finding: Finding) => onDismiss([...dismissed, finding.code]);
  const takeBack = (finding: Finding) => onDismiss(dismissed.filter((code) => code !== finding.code));
  const list = (title: string, findings: readonly Finding[]) =>
    findings.some(open) && (
      <>
        <Typography variant="h3" component="h2" sx={{ mb: 2 }}>{title}</Typography>
        <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0, mb: 3 }}>
          {findings.filter(open).map((finding, i) => (
            <Line
              key={`${finding.code} ${i}`} finding={finding} {...rest} onClose={() => onAnchor(null)}
              dismissed={dismissed.includes(finding.code)} onDismiss={() => dismiss(finding)} onTakeBack={() => takeBack(finding)}
            />
          ))}
        </Box>
      </>
    );
  return (
    <>
      <Button
        size="small" variant="text" aria-haspopup="dialog" onClick={(event) => onAnchor(event.currentTarget)}
        startIcon={count > 0 ? <CautionIcon size={14} /> : undefined} sx={{ color: count > 0 ? colours.caution : colours.muted, whiteSpace: "nowrap", flexShrink: 0, minHeight: 26 }}
      >
        {count} {count === 1 ? "finding" : "findings"}
      </Button>
      <Popover
        open={anchor !== null} anchorEl={anchor} onClose={() => onAnchor(null)}
        anchorOrigin={{ vertical: "bottom", horizontal: "left" }}
        slotProps={{ paper: { role: "dialog", "aria-label": "Findings about the recording", sx: { width: 600, maxHeight: 560, p: 5, border: `1px solid ${colours.rule}`, borderRadius: "15px" } } }}
      >
        {list("About the chain", chain)}
        {list("Findings in this recording", intake)}
        {onMendAll && intake.some(open) && (
          <Button
            variant="contained" size="small" sx={{ mb: 2 }} title="The chain made for this recording takes the place of the present one; undo brings it back"
            onClick={() => {
              onMendAll();
              onAnchor(null);
            }}
          >
            Mend all findings
          </Button>
        )}
        {count === 0 && !all && <Typography variant="body2">Nothing is left to tell.</Typography>}
        {hidden > 0 && (
          <Button size="small" variant="text" onClick={() => setAll(!all)}>
            {all ? "Hide those dismissed" : `Show ${hidden} dismissed`}
          </Button>
        )}
      </Popover>
    </>
  );
}

interface LineProps {
  finding: Finding;
  steps: Step[];
  dismissed: boolean;
  onAct: (finding: Finding) => void;
  onGoTo: (timeS: number) => void;
  onClose: () => void;
  onDismiss: () => void;
  onTakeBack: () => void;
}

function Line({ finding, steps, dismissed, onAct, onGoTo, onClose, onDismiss, onTakeBack }: LineProps) {
  const { colours } = useTheme();
  return (
    <Box component="li" sx={{ display: "flex", gap: 3, alignItems: "center", py: 2, borderTop: `1px solid ${colours.rule}`, opacity: dismissed ? 0.7 : 1 }}>
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
              if (finding.act?.kind !== "add_step") onClose();
            }}
          >
            {finding.act.text}
          </Button>
        )
      )}
      <Button size="small" variant="text" title={dismissed ? "Tell it again" : "Do not tell this again on this recording"} onClick={dismissed ? onTakeBack : onDismiss}>
        {dismissed ? "Tell again" : "Dismiss"}
      </Button>
    </Box>
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
