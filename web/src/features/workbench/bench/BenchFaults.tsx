import Alert from "@mui/material/Alert";

import { ElsewhereNote } from "../ElsewhereNote";
import { useTheBench } from "./BenchContext";

/** What went wrong, and what was changed in another window. */
export function BenchFaults() {
  const { fault, chain, history, types, live, failed, result, outdated } = useTheBench();
  return (
    <>
      {fault && <Alert severity="error" onClose={chain.reset} sx={{ my: 1 }}>{fault.message}</Alert>}
      {chain.elsewhere && <ElsewhereNote theirs={chain.elsewhere} mine={history} types={types} onDecide={chain.decide} />}
      {live.fault && <Alert severity="error" sx={{ my: 1 }}>{live.fault}</Alert>}
      {failed && <Alert severity="error" sx={{ my: 1 }}>The last run stopped: {failed.error}</Alert>}
      {result && result.notes.length > 0 && !outdated && <Alert severity="warning" sx={{ my: 1 }}>{result.notes.join("; ")}</Alert>}
    </>
  );
}
