import Alert from "@mui/material/Alert";
import Button from "@mui/material/Button";

import type { Recording, Step, StepType } from "../../api/types";
import { editsOf } from "../../audio/cutTimes";
import type { Work } from "./chainHistory";
import { changeWords } from "./chainWords";

const MOST_TOLD = 6;

interface Props {
  theirs: Recording;
  mine: Work;
  types: readonly StepType[];
  onDecide: (takeTheirs: boolean) => void;
}

/** Another window has changed chain or edits: what differs, and which of the two to go on with. */
export function ElsewhereNote({ theirs, mine, types, onDecide }: Props) {
  const words = changeWords(mine, { steps: theirs.chain as Step[], edits: editsOf(theirs) }, types);
  const told = words.length > MOST_TOLD ? [...words.slice(0, MOST_TOLD), `${words.length - MOST_TOLD} more`] : words;
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
      This recording was changed in another window{told.length > 0 ? `; there: ${told.join(", ")}` : ", to the same as here"}. Nothing is kept from
      here until you choose; the other stays one undo away.
    </Alert>
  );
}
