import { useCallback, useEffect, useReducer, useRef } from "react";

import type { Recording, Step } from "../../api/types";
import { editsOf, sameEdits, type Edits } from "../../audio/cutTimes";
import { useApplyRecipeHere, useSetChain, useSetEdits, useSetEnds, type Ends } from "./api";
import { emptyHistory, historyAfter, type Act, type Origin } from "./chainHistory";
import { sameSteps } from "../../chains/sameSteps";
import { keepHistory, keptHistory } from "./historyStore";
import { isElsewhere, useElsewhere, useSeenVersion } from "./useElsewhere";

const SETTLE_MS = 250;

const workOf = (from: Recording) => ({ steps: from.chain as Step[], edits: editsOf(from), origin: originOf(from) });

const originOf = ({ recipe, recipe_version }: Recording): Origin => ({ recipe: recipe ?? null, recipe_version: recipe_version ?? null });

/** What is to be sent of where a chain came from: nothing if the server knows. */
function newOrigin(origin: Origin | undefined, held: Origin, isThere: (recipe: string) => boolean): Origin | null {
  if (!origin || (origin.recipe === held.recipe && origin.recipe_version === held.recipe_version)) return null;
  return origin.recipe === null || isThere(origin.recipe) ? origin : { recipe: null, recipe_version: null };
}

/**
 * The recording's chain and edits while worked on: every change is kept on the server soon after.
 * A chain that is brought along takes the place of its own, as a change that can be undone.
 * `isRecipe`
 * tells which recipes there still are.
 */
export function useChain(recording: Recording, brought: Step[] | null, isRecipe: (id: string) => boolean) {
  const [history, act] = useReducer(historyAfter, recording, (from) => {
    const now = { steps: from.chain as Step[], edits: editsOf(from), origin: originOf(from) };
    const own = { ...emptyHistory, ...now, ...keptHistory(from.id, now) };
    return brought ? historyAfter(own, { kind: "replace", steps: brought }) : own;
  });
  useEffect(() => keepHistory(recording.id, history), [recording.id, history]);
  const seen = useSeenVersion(recording.work_version);
  const setChain = useSetChain(recording.id, seen);
  const setEdits = useSetEdits(recording.id, seen);
  const setEnds = useSetEnds(recording.id, seen);
  const applyRecipe = useApplyRecipeHere(recording.id, seen);
  const parts = [setChain, setEdits, setEnds, applyRecipe];
  const elsewhere = useElsewhere(recording, seen, parts);
  /** What the server holds or is being sent; null after it refused. */
  const stored = useRef<{ steps: Step[] | null; origin: Origin; edits: Edits }>({
    steps: recording.chain as Step[],
    origin: originOf(recording),
    edits: history.edits,
  });
  /** Ends when the last change of each kind has arrived. */
  const arriving = useRef<{ steps?: Promise<unknown>; edits?: Promise<void> }>({});
  const { steps, edits, origin } = history;

  const sendSteps = setChain.mutateAsync;
  const keepSteps = useCallback(
    (next: Step[]) => {
      const other = newOrigin(origin, stored.current.origin, isRecipe);
      stored.current.steps = next;
      const sending = sendSteps({ steps: next, origin: other });
      // The mutation shows what was refused, and sent again before anything is done with it.
      arriving.current.steps = sending.then(
        () => {
          stored.current.origin = other ?? stored.current.origin;
        },
        () => {
          if (stored.current.steps === next) stored.current.steps = null;
        },
      );
      return sending;
    },
    [sendSteps, origin, isRecipe],
  );
  useEffect(() => {
    const { steps: held } = stored.current;
    if (elsewhere || (held && sameSteps(steps, held))) return;
    const timer = setTimeout(() => void keepSteps(steps).catch(() => undefined), SETTLE_MS);
    return () => clearTimeout(timer);
  }, [steps, keepSteps, elsewhere]);

  const keepEdits = setEdits.mutate;
  useEffect(() => {
    const before = stored.current.edits;
    if (elsewhere || sameEdits(edits, before)) return;
    stored.current.edits = edits;
    const kept = (answer: Recording) => {
      // Only what nobody has changed again since.
      if (sameEdits(stored.current.edits, edits)) {
        stored.current.edits = editsOf(answer);
        act({ kind: "kept", edits: editsOf(answer) });
      }
    };
    const refused = (error: Error) => {
      stored.current.edits = before;
      if (!isElsewhere(error)) act({ kind: "kept", edits: before });
    };
    arriving.current.edits = new Promise((onSettled) => keepEdits(edits, { onSuccess: kept, onError: refused, onSettled: () => onSettled() }));
  }, [edits, keepEdits, elsewhere]);

  /** Keep what is not kept yet, and wait for what is on its way, before something is done with the chain. */
  const settle = async () => {
    if (elsewhere) throw new Error("This chain was changed in another window; choose one of the two first.");
    await Promise.all([arriving.current.steps, arriving.current.edits]);
    const { steps: held } = stored.current;
    if (!held || !sameSteps(steps, held)) await keepSteps(steps);
  };
  /** Take over a chain that the server made, such as an applied recipe; can be undone. */
  const replace = (answer: Recording) => {
    const [next, from] = [answer.chain as Step[], originOf(answer)];
    stored.current.steps = next;
    stored.current.origin = from;
    act({ kind: "replace", steps: next, origin: from });
  };
  /** Let the server make head and tail so long; can be undone. */
  const makeEnds = (ends: Ends, onDone: () => void) =>
    setEnds.mutate(ends, {
      onSuccess: (answer) => {
        stored.current.edits = editsOf(answer);
        act({ kind: "edit", edits: editsOf(answer) });
        onDone();
      },
    });
  /** Go on with what another window made, or with what is here; the other one is an undo away. */
  const decide = (takeTheirs: boolean) => {
    if (!elsewhere) return;
    const [theirs, mine] = [workOf(elsewhere), { steps, edits, origin }];
    seen.take(elsewhere.work_version);
    stored.current = theirs;
    parts.forEach((part) => part.reset());
    act({ kind: "replace", ...theirs });
    if (!takeTheirs) act({ kind: "replace", steps: mine.steps, edits: mine.edits, ...(mine.origin && { origin: mine.origin }) });
  };
  return {
    history,
    act: act as (act: Act) => void,
    settle,
    /** Make a recipe's steps the chain; can be undone. */
    applyRecipe: (recipe: string) => applyRecipe.mutate(recipe, { onSuccess: replace }),
    makeEnds,
    /** The recording as another window has made it since; null while this one is up to date. */
    elsewhere,
    decide,
    error: parts.find((part) => part.error && !isElsewhere(part.error))?.error ?? null,
    reset: () => parts.forEach((part) => part.reset()),
  };
}
