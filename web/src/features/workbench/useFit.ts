/** Fitting the chain's last steps to the target: a run makes them, and they become the chain. */

import { useEffect, useRef } from "react";

import type { Run, Step } from "../../api/types";
import { sameSteps } from "../../chains/sameSteps";

/** Gives what to tell when a fitting run has been started; `adopt` takes over its steps when done. */
export function useFit(done: readonly Run[], steps: Step[], adopt: (steps: Step[]) => void): (run: Run) => void {
  const waiting = useRef<{ run: string; from: Step[] } | null>(null);
  useEffect(() => {
    const fitted = done.find((run) => run.id === waiting.current?.run);
    if (!fitted || !waiting.current) return;
    // A chain that was changed meanwhile is left as it is.
    if (sameSteps(waiting.current.from, steps)) adopt(fitted.chain as Step[]);
    waiting.current = null;
  }, [done, steps, adopt]);
  return (run) => {
    waiting.current = { run: run.id, from: steps };
  };
}
