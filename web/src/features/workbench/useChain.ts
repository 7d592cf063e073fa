import { useEffect, useReducer, useRef } from "react";

import type { Recording, Step } from "../../api/types";
import { editsOf, sameEdits } from "../../audio/cutTimes";
import { useSetChain, useSetEdits, useSetEnds } from "./api";
import { emptyHistory, historyAfter, type Act } from "./chainHistory";
import { sameSteps } from "../../chains/sameSteps";
import { keepHistory, keptHistory } from "./historyStore";

const SETTLE_MS = 250;

/** The recording's chain and edits while worked on: every change is kept on the server soon after. */
export function useChain(recording: Recording) {
  const [history, act] = useReducer(historyAfter, recording, (from) => {
    const now = { steps: from.chain as Step[], edits: editsOf(from) };
    return { ...emptyHistory, ...now, ...keptHistory(from.id, now) };
  });
  useEffect(() => keepHistory(recording.id, history), [recording.id, history]);
  const setChain = useSetChain(recording.id);
  const setEdits = useSetEdits(recording.id);
  const setEnds = useSetEnds(recording.id);
  const stored = useRef({ steps: history.steps, edits: history.edits });
  const { steps, edits } = history;

  const keepSteps = setChain.mutate;
  useEffect(() => {
    if (sameSteps(steps, stored.current.steps)) return;
    const timer = setTimeout(() => {
      stored.current.steps = steps;
      keepSteps(steps);
    }, SETTLE_MS);
    return () => clearTimeout(timer);
  }, [steps, keepSteps]);

  const keepEdits = setEdits.mutate;
  useEffect(() => {
    const before = stored.current.edits;
    if (sameEdits(edits, before)) return;
    stored.current.edits = edits;
    const kept = (answer: Recording) => {
      // Only what nobody has changed again since.
      if (sameEdits(stored.current.edits, edits)) {
        stored.current.edits = editsOf(answer);
        act({ kind: "kept", edits: editsOf(answer) });
      }
    };
    const refused = () => {
      stored.current.edits = before;
      act({ kind: "kept", edits: before });
    };
    keepEdits(edits, { onSuccess: kept, onError: refused });
  }, [edits, keepEdits]);

  /** Keep what is not kept yet, before something is done with the chain. */
  const settle = async () => {
    if (sameSteps(steps, stored.current.steps)) return;
    stored.current.steps = steps;
    await setChain.mutateAsync(steps);
  };
  /** Take over a chain that the server made, such as an applied recipe; can be undone. */
  const replace = (next: Step[]) => {
    stored.current.steps = next;
    act({ kind: "replace", steps: next });
  };
  /** Let the server make head and tail so long; can be undone. */
  const makeEnds = (ends: { head_s: number | null; tail_s: number | null }, onDone: () => void) =>
    setEnds.mutate(ends, {
      onSuccess: (answer) => {
        stored.current.edits = editsOf(answer);
        act({ kind: "edit", edits: editsOf(answer) });
        onDone();
      },
    });
  const parts = [setChain, setEdits, setEnds];
  return {
    history,
    act: act as (act: Act) => void,
    settle,
    replace,
    makeEnds,
    error: parts.find((part) => part.error)?.error ?? null,
    reset: () => parts.forEach((part) => part.reset()),
  };
}
