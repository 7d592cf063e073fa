import Button from "@mui/material/Button";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useState } from "react";

import type { Run, Step, StepType } from "../../api/types";
import { CheckIcon } from "../../pictures/icons";
import { differences } from "../../chains/differences";

interface Props {
  results: Run[];
  shown: Run;
  steps: Step[];
  types: readonly StepType[];
  onChoose: (id: string) => void;
}

const MOST_WORDS = 60;

/** Earlier results, to hear and see as "after". */
export function ResultsMenu({ results, shown, steps, types, onChoose }: Props) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  if (results.length < 2) return null;
  const words = (run: Run) => {
    const changes = differences(run.chain as Step[], steps, types).join("; ");
    return changes === "" ? "the chain as it is now" : `now different: ${changes.length > MOST_WORDS ? `${changes.slice(0, MOST_WORDS)} …` : changes}`;
  };
  return (
    <>
      <Button size="small" variant="text" aria-haspopup="menu" title="Which result is heard as after" onClick={(event) => setAnchor(event.currentTarget)} sx={{ fontWeight: 500, whiteSpace: "nowrap", flexShrink: 0 }}>
        Result of {clock(shown)}
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {results.map((run) => (
          <MenuItem
            key={run.id} selected={run.id === shown.id}
            onClick={() => {
              onChoose(run.id);
              setAnchor(null);
            }}
          >
            {run.id === shown.id && <CheckIcon size={14} />}&nbsp;{clock(run)}, {words(run)}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

const clock = (run: Run) => new Date(run.created_at).toLocaleString(undefined, { month: "short", day: "numeric", hour: "2-digit", minute: "2-digit" });
