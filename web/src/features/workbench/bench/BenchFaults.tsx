import Alert from "@mui/material/Alert";

import type { Step } from "../../../api/types";
import { useCorrection } from "../../runs";
import { CorrectionNote } from "../CorrectionNote";
import { ElsewhereNote } from "../ElsewhereNote";
import { useTheBench } from "./BenchContext";

/** What went wrong, what was changed in another window, and what a proposal corrects about itself. */
export function BenchFaults() {
  const { fault, chain, history, types, live, failed, result, outdated, act } = useTheBench();
  const correction = useCorrection(outdated ? null : (result?.id ?? null));
  return (
    <>
      {fault && <Alert severity="error" onClose={chain.reset} sx={{ my: 1 }}>{fault.message}</Alert>}
      {chain.elsewhere && <ElsewhereNote theirs={chain.elsewhere} mine={history} types={types} onDecide={chain.decide} />}
      {live.fault && <Alert severity="error" sx={{ my: 1 }}>{live.fault}</Alert>}
      {failed && <Alert severity="error" sx={{ my: 1 }}>The last run stopped: {failed.error}</Alert>}
      {result && result.notes.length > 0 && !outdated && <Alert severity="warning" sx={{ my: 1 }}>{result.notes.join("; ")}</Alert>}
      {correction.data && correction.data.words.length > 0 && (
        <CorrectionNote words={correction.data.words} onCorrect={() => act({ kind: "replace", steps: correction.data.steps as Step[] })} />
      )}
    </>
  );
}
