import Alert from "@mui/material/Alert";
import Button from "@mui/material/Button";

import type { Recording, Step, StepType } from "../../api/types";
import { editsOf } from "../../audio/cutTimes";
import type { Work } from "./chainHistory";
import { changeWords } from "./chainWords";

const MOST_SHOWN = 6;

interface Props {
  theirs: Recording;
  mine: Work;
  types: readonly StepType[];
  onDecide: (takeTheirs: boolean) => void;
}

/** Another window has changed chain or edits: what differs, and which of the two to go on with. */
export function ElsewhereNote({ theirs, mine, types, onDecide }: Props) {
  const words = changeWords(mine, { steps: theirs.chain as Step[], edits: editsOf(theirs) }, types);
  const shown = words.length > MOST_SHOWN ? [...words.slice(0, MOST_SHOWN), `${words.length - MOST_SHOWN} more`] : words;
  return (
    <Alert
      severity="warning" sx={{ my: 1 }}
      action={
        <>
          <Button size="small" variant="contained" sx={{ whiteSpace: "nowrap" }} onClick={() => onDecide(true)}>Take the other</Button>
          <Button size="small" variant="outlined" sx={{ ml: 2, whiteSpace: "nowrap" }} onClick={() => onDecide(false)}>Keep this one</Button>
        </>
      }
    >
      This recording was changed in another window{shown.length > 0 ? `: ${shown.join(", ")}` : ", to the same settings"}. Changes here are not saved
      until you choose. The version you leave stays one undo away.
    </Alert>
  );
}
