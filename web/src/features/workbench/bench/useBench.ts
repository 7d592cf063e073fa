import { useCallback, useMemo, useState } from "react";

import type { Finding, Params, Recipe, Recording, Step } from "../../../api/types";
import { toOriginal, withCut, type Edits } from "../../../audio/cutTimes";
import { useRecipes, useStepTypes } from "../../recipes";
import { useCancelRun, useStartRun } from "../../runs";
import { useTargets } from "../../targets";
import { proposedStep, usualPlace } from "../adviceActs";
import { useDismiss, useSetTarget } from "../api";
import { newStep } from "../chainHistory";
import type { Look } from "../drawSide";
import { focusSoon, STEP_EDITOR } from "../focusing";
import type { TimeSpan } from "../mirrorView";
import { useBroughtChain } from "../useBroughtChain";
import { useChain } from "../useChain";
import { useFit } from "../useFit";
import { useFolded } from "../useFolded";
import { useResult } from "../useResult";
import { levelsAlong } from "./alongTheChain";
import { useOpenStep } from "./useOpenStep";
import { useSounds } from "./useSounds";
import { useView } from "./useView";

export type Bench = ReturnType<typeof useBench>;

/** Everything the parts of the workbench share about one recording, and what they do to it. */
export function useBench(recording: Recording) {
  const stepTypes = useStepTypes();
  const types = useMemo(() => stepTypes.data ?? [], [stepTypes.data]);
  const recipes = useRecipes();
  const isRecipe = useCallback((id: string) => recipes.data?.some((r) => r.id === id) ?? false, [recipes.data]);
  const startRun = useStartRun();
  const cancelRun = useCancelRun();
  const targets = useTargets();
  const setTarget = useSetTarget(recording.id);
  const dismiss = useDismiss(recording.id);
  const chain = useChain(recording, useBroughtChain(), isRecipe);
  const { history, act, settle } = chain;
  const { steps, edits } = history;
  const durationS = recording.duration_s ?? 0;
  const open = useOpenStep(steps);
  const { chosen, setChosen } = open;
  const look = useView(durationS);
  const [drawn, setDrawn] = useState<Look>("dB");
  const [folded, fold] = useFolded(open.chosenStep?.type ?? "");
  /** The dialog that is open over the workbench. */
  const [dialog, setDialog] = useState<"pick" | "save" | "deliver" | null>(null);
  const [adviceAt, setAdviceAt] = useState<HTMLElement | null>(null);
  const results = useResult(recording.id, steps, edits, types);
  const sounds = useSounds(recording, steps, chosen, edits, results);
  const { live } = sounds.passage;
  // What was measured is what the server holds; the page may be a moment ahead.
  const measured = recording as Edits;

  const edit = (change: Partial<Edits>) => act({ kind: "edit", edits: { ...edits, ...change } });
  const goTo = (timeS: number) => {
    sounds.playback.seek(timeS);
    look.show(timeS);
  };
  const add = (step: Step, at: number) => {
    act({ kind: "add", step, at });
    setChosen(at);
  };
  // The error of a chain that the server refuses is shown; there is nothing to run then.
  const settled = () => settle().then(() => true, () => false);
  const adopt = useCallback((fitted: Step[]) => act({ kind: "replace", steps: fitted }), [act]);
  const onFitting = useFit(results.done, steps, adopt);
  const takeAdvice = (finding: Finding) => {
    const step = proposedStep(finding, types);
    const with_ = finding.act?.with ?? {};
    if (step) {
      add(step, usualPlace(step.type, steps, types));
    } else if (finding.act?.kind === "go_to") {
      goTo(toOriginal(Number(with_.time_s), measured));
    } else if (finding.act?.kind === "mono") {
      edit({ mono: String(with_.choice) });
    } else if (finding.act?.kind === "mark_room_tone") {
      look.setSelection({ startS: 0, endS: Math.min(1, durationS) });
    } else if (finding.act?.kind === "move_step") {
      act({ kind: "move", from: Number(with_.from), to: Number(with_.to) });
      setChosen(Number(with_.to));
    } else if (finding.act?.kind === "set_params") {
      act({ kind: "set", at: Number(with_.at), params: with_.params as Params });
      setChosen(Number(with_.at));
    }
  };
  const points = live.tail?.points.length === steps.length ? live.tail.points : [];
  return {
    recording, types, recipes: recipes.data ?? [], targets: targets.data ?? [], chain, history, steps, edits, durationS, measured,
    ...open, ...look, drawn, setDrawn, folded, fold, dialog, setDialog, adviceAt, setAdviceAt,
    ...results, sounds, live, act, edit, goTo, settled, takeAdvice,
    outdated: results.changes.length > 0,
    canRun: steps.length > 0 && results.busyRun === null,
    /** Of the open chain on the passage; empty until they are there for all steps. */
    points,
    chainFindings: (points.length > 0 ? live.tail?.advice : null) ?? [],
    levels: levelsAlong(recording, results.result, steps, live),
    fault: chain.error ?? startRun.error ?? cancelRun.error ?? dismiss.error ?? setTarget.error ?? sounds.before.error,
    cutOut: (span: TimeSpan) => {
      edit({ cuts: withCut(edits.cuts, span) });
      look.setSelection(null);
    },
    /** Add a step of a type and open it. */
    addNew: (type: Parameters<typeof newStep>[0], at: number) => {
      add(newStep(type), at);
      focusSoon(STEP_EDITOR);
    },
    /** Add a step with its settings at its usual place and open it. */
    addMade: (step: Step) => add(step, usualPlace(step.type, steps, types)),
    apply: (recipe: Recipe) => chain.applyRecipe(recipe.id),
    run: async () => {
      if (await settled()) startRun.mutate({ recording: recording.id });
    },
    fit: async () => {
      if (await settled()) startRun.mutate({ recording: recording.id, fit: true }, { onSuccess: onFitting });
    },
    cancel: () => results.busyRun && cancelRun.mutate(results.busyRun.id),
    dismiss: (codes: string[]) => dismiss.mutate(codes),
    chooseTarget: (target: string | null) => setTarget.mutate(target),
  };
}
