import { useEffect, useReducer, useRef } from "react";

import type { Recording, Step } from "../../api/types";
import { useSetChain } from "./api";
import { emptyHistory, historyAfter, sameSteps, type Act } from "./chainHistory";

const SETTLE_MS = 250;

/** The recording's chain while it is worked on: every change is kept on the server soon after. */
export function useChain(recording: Recording) {
  const [history, act] = useReducer(historyAfter, {
    ...emptyHistory,
    steps: recording.chain as Step[],
  });
  const { mutate, mutateAsync, isPending, error, reset } = useSetChain(recording.id);
  const stored = useRef(history.steps);
  const { steps } = history;

  useEffect(() => {
    if (sameSteps(steps, stored.current)) return;
    const timer = setTimeout(() => {
      stored.current = steps;
      mutate(steps);
    }, SETTLE_MS);
    return () => clearTimeout(timer);
  }, [steps, mutate]);

  /** Keep what is not kept yet, before something is done with the chain. */
  const settle = async () => {
    if (sameSteps(steps, stored.current)) return;
    stored.current = steps;
    await mutateAsync(steps);
  };
  /** Take over a chain that the server made, such as an applied recipe; can be undone. */
  const replace = (next: Step[]) => {
    stored.current = next;
    act({ kind: "replace", steps: next });
  };
  return { history, act: act as (act: Act) => void, settle, replace, isPending, error, reset };
}
