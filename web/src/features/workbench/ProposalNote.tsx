import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { Link } from "react-router";

import type { Proposal, Step, StepType } from "../../api/types";
import { PlusIcon } from "../../pictures/icons";

interface Props {
  proposal: Proposal;
  types: StepType[];
  /** All of its steps become the chain. */
  onTake: (steps: Step[]) => void;
  onAdd: (step: Step) => void;
  /** Where it is set beside the recipes to start from. */
  tasting: string;
}

/** A chain made for this recording, read like a note from an engineer. */
export function ProposalNote({ proposal, types, onTake, onAdd, tasting }: Props) {
  const { colours } = useTheme();
  const steps = proposal.steps.map((proposed) => proposed.step as Step);
  const labelOf = (step: Step) => types.find((type) => type.type === step.type)?.label ?? step.type;
  return (
    <Box component="section" aria-label="Proposed for this recording" sx={{ flex: "1 1 100%", maxWidth: 980 }}>
      <Box sx={{ display: "flex", alignItems: "baseline", columnGap: 2 }}>
        <Typography variant="h2" sx={{ fontSize: 16 }}>Made for this recording</Typography>
        {steps.length > 0 && (
          <Button variant="contained" size="small" onClick={() => onTake(steps)}>
            Take {steps.length === 1 ? "this step" : `all ${steps.length} steps`}
          </Button>
        )}
        {steps.length > 0 && <Button component={Link} to={tasting} size="small">Taste it beside the recipes</Button>}
      </Box>
      <Box component="ol" sx={{ m: 0, mt: 1, p: 0, listStyle: "none" }}>
        {proposal.steps.map(({ step, reasons }, index) => (
          <Box
            component="li" key={index}
            sx={{ display: "grid", gridTemplateColumns: "150px 1fr auto", columnGap: 2, alignItems: "baseline", py: 0.75, borderTop: `1px solid ${colours.rule}` }}
          >
            <Typography sx={{ fontWeight: 650 }}>{labelOf(step as Step)}</Typography>
            <Typography variant="body2">{reasons.join(" ")}</Typography>
            <Button
              size="small" startIcon={<PlusIcon size={12} />} aria-label={`Add ${labelOf(step as Step)} alone`}
              onClick={() => onAdd(step as Step)}
            >
              Alone
            </Button>
          </Box>
        ))}
      </Box>
      {proposal.notes.map((note) => (
        <Typography key={note} variant="body2" color="textSecondary" sx={{ mt: 1 }}>{note}</Typography>
      ))}
    </Box>
  );
}
