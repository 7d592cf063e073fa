import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Snackbar from "@mui/material/Snackbar";
import Typography from "@mui/material/Typography";
import { useMemo, useState } from "react";
import { Link, useParams } from "react-router";

import type { Finding, Levels, Recording, Run, Step } from "../../api/types";
import { editsOf, noEdits, sameEdits, toOriginal, withCut, type Edits } from "../../audio/cutTimes";
import { usePlayer } from "../../audio/usePlayer";
import { SaveRecipeDialog, useRecipes, useStepTypes } from "../recipes";
import { useRecordingOverview } from "../recordings";
import { isBusy, useCancelRun, useRunOverview, useRuns, useStartRun } from "../runs";
import { KeysHelp } from "../../app/KeysDialog";
import { useApplyRecipeHere, useRecording } from "./api";
import { commonSteps, newStep, sameSteps } from "./chainHistory";
import { AdviceButton } from "./AdviceButton";
import { proposedStep, usualPlace } from "./adviceActs";
import { LevelPath } from "./LevelPath";
import { EndsButton } from "./EndsButton";
import type { Look } from "./drawSide";
import type { Sound } from "./looking";
import { MeasuringPage } from "./MeasuringPage";
import { Mirror } from "./Mirror";
import { moved, showing, zoomed, type TimeSpan } from "./mirrorView";
import { PlaybackBar } from "./PlaybackBar";
import { RoomToneChoice } from "./RoomToneBar";
import { SelectionTools } from "./SelectionTools";
import { StepEditor } from "./StepEditor";
import { useChain } from "./useChain";
import { KEYS, useKeys } from "./useKeys";
import { WorkbenchHead } from "./WorkbenchHead";

const BINS = 2000;
/** Two clip marks closer than this are one place to look at. */
const CLIP_APART_S = 0.05;

/** One recording on the workbench. */
export function WorkbenchPage() {
  const { recordingId = "" } = useParams();
  const recording = useRecording(recordingId);
  if (recording.error) {
    return (
      <Box sx={{ pt: 2 }}>
        <Typography variant="h1">This recording cannot be opened</Typography>
        <Alert severity="error" sx={{ mt: 3 }}>
          {recording.error.message} <Link to="/recordings">All recordings</Link>
        </Alert>
      </Box>
    );
  }
  const data = recording.data;
  if (!data) return <Typography sx={{ pt: 4 }}>Opening the recording …</Typography>;
  // After a cut the old figures stand until the new ones are there.
  if (data.state === "failed" || !data.measures) return <MeasuringPage recording={data} />;
  return <Workbench key={data.id} recording={data} />;
}

function levelsAlong(recording: Recording, run: Run | null, steps: Step[]): (Levels | null)[] {
  const first = run?.before ?? recording.measures;
  // What a step did is known as long as nothing before it, nor itself, has changed since.
  const known = run ? commonSteps(steps, run.chain as Step[]) : 0;
  return [first, ...steps.map((_, i) => (i < known ? (run?.points[i]?.levels ?? null) : null))];
}

function Workbench({ recording }: { recording: Recording }) {
  const types = useStepTypes();
  const recipes = useRecipes();
  const runs = useRuns(recording.id);
  const startRun = useStartRun();
  const cancelRun = useCancelRun();
  const applyRecipe = useApplyRecipeHere(recording.id);
  const { history, act, settle, replace, makeEnds, error: chainError, reset } = useChain(recording);
  const { steps, edits } = history;
  const durationS = recording.duration_s ?? 0;
  const [wanted, setChosen] = useState(0);
  // Steps can go while one is open; the last one that is left opens instead.
  const chosen = steps.length > 0 ? Math.min(wanted, steps.length - 1) : null;
  const [selection, setSelection] = useState<TimeSpan | null>(null);
  const [look, setLook] = useState<Look>("dB");
  const [view, setView] = useState<TimeSpan>({ startS: 0, endS: durationS });
  const [saving, setSaving] = useState(false);
  const [said, setSaid] = useState<string | null>(null);

  const own = (runs.data ?? []).filter((r) => r.batch === null || sameSteps(r.chain as Step[], steps));
  const result = own.find((r) => r.state === "done") ?? null;
  const busyRun = own.find(isBusy) ?? null;
  const failed = own[0]?.state === "failed" ? own[0] : null;
  const { cuts } = edits;
  const edit = (change: Partial<Edits>) => act({ kind: "edit", edits: { ...edits, ...change } });
  // What was measured is what the server holds; the page may be a moment ahead.
  const measured = recording as Edits;
  const afterEdits = useMemo(() => (result ? editsOf(result) : noEdits), [result]);
  const outdated =
    result !== null && (!sameSteps(result.chain as Step[], steps) || !sameEdits(afterEdits, edits));
  const cutOut = (span: TimeSpan) => {
    edit({ cuts: withCut(cuts, span) });
    setSelection(null);
  };

  const before = useRecordingOverview(recording, BINS);
  const after = useRunOverview(result?.id ?? null, BINS);
  const louderDb =
    result?.before?.integrated_lufs != null && result.after?.integrated_lufs != null
      ? result.after.integrated_lufs - result.before.integrated_lufs
      : null;
  const { player, state } = usePlayer({
    url: result ? `/api/runs/${result.id}/pair/` : `/api/recordings/${recording.id}/audio/`,
    channels: result?.channels ?? recording.channels,
    hasAfter: result !== null,
    louderDb,
    edits: result ? afterEdits : edits,
    isEdited: result !== null && !sameEdits({ ...afterEdits, mono: "" }, noEdits),
  });

  const runChain = async () => {
    await settle();
    startRun.mutate(recording.id);
  };

  const goTo = (timeS: number) => {
    player.seek(timeS);
    setView((shown) => showing(shown, timeS, durationS));
  };
  const listen = (span: TimeSpan) => {
    player.choose("before");
    player.seek(span.startS);
    void player.play(span.endS);
  };
  const takeAdvice = (finding: Finding) => {
    const step = proposedStep(finding, types.data ?? []);
    if (step) {
      const at = usualPlace(step.type, steps, types.data ?? []);
      act({ kind: "add", step, at });
      setChosen(at);
    } else if (finding.act?.kind === "go_to") {
      goTo(toOriginal(Number(finding.act.with.time_s), measured));
    } else if (finding.act?.kind === "mono") {
      edit({ mono: String(finding.act.with.choice) });
    } else if (finding.act?.kind === "mark_room_tone") {
      setSelection({ startS: 0, endS: Math.min(1, durationS) });
    }
  };

  const clipped = useMemo(
    () => (recording.measures?.clipped_at_s ?? []).map((leftS) => toOriginal(leftS, recording as Edits)),
    [recording],
  );
  const toClip = (forward: boolean) => {
    const nowS = player.timeNowS;
    const next = forward
      ? clipped.find((atS) => atS > nowS + CLIP_APART_S)
      : clipped.findLast((atS) => atS < nowS - CLIP_APART_S);
    if (next !== undefined) goTo(next);
  };
  useKeys({
    player, onClip: toClip,
    onUndo: () => act({ kind: "undo" }), onRedo: () => act({ kind: "redo" }), onCut: () => selection && cutOut(selection),
    onZoom: (factor) => setView((shown) => zoomed(showing(shown, player.timeNowS, durationS), player.timeNowS, factor, durationS)),
    onWhole: () => setView({ startS: 0, endS: durationS }),
    onMove: (lengths) => setView((shown) => moved(shown, lengths * (shown.endS - shown.startS), durationS)),
  });
  const levels = levelsAlong(recording, result, steps);
  const known = result ? commonSteps(steps, result.chain as Step[]) : 0;
  const chosenStep = chosen === null ? undefined : steps[chosen];
  const chosenType = types.data?.find((t) => t.type === chosenStep?.type);
  const changedSteps = recording.recipe_steps && !sameSteps(recording.recipe_steps as Step[], steps);
  const chainLine =
    steps.length === 0
      ? "No chain yet: add a step below, or apply a recipe"
      : `${recording.recipe_name ?? "Own chain"}${recording.recipe_version ? `, version ${recording.recipe_version}` : ""}${changedSteps ? ", changed here" : ""}${
          result === null ? ", not run yet" : outdated ? ", changed since the last run" : ""
        }`;
  const beforeSound: Sound = { kind: "recordings", id: recording.id };
  const afterSound: Sound | null = result && { kind: "runs", id: result.id };
  const tone = recording.room_tone;
  const found = recording.measures?.found_room_tone;
  const shownTone =
    tone && tone.recording === recording.id
      ? { startS: tone.start_s, endS: tone.end_s, found: false }
      : !tone && found
        ? { startS: toOriginal(found.start_s, measured), endS: toOriginal(found.end_s, measured), found: true }
        : null;
  const fault = chainError ?? startRun.error ?? cancelRun.error ?? applyRecipe.error ?? before.error;
  return (
    <Box>
      <WorkbenchHead
        recording={recording} chainLine={chainLine} recipes={recipes.data ?? []}
        canUndo={history.past.length > 0} canRedo={history.future.length > 0}
        canRun={steps.length > 0} busyRun={busyRun} result={outdated ? null : result}
        onUndo={() => act({ kind: "undo" })} onRedo={() => act({ kind: "redo" })}
        onApply={(recipe) =>
          applyRecipe.mutate(recipe.id, { onSuccess: (r) => replace(r.chain as Step[]) })
        }
        onSave={() => setSaving(true)} onRun={() => void runChain()}
        onCancel={() => busyRun && cancelRun.mutate(busyRun.id)}
      >
        <AdviceButton
          advice={recording.advice} steps={steps} onAct={takeAdvice}
          onGoTo={(leftS) => goTo(toOriginal(leftS, measured))}
        />
      </WorkbenchHead>
      {fault && (
        <Alert severity="error" onClose={reset} sx={{ my: 1 }}>
          {fault.message}
        </Alert>
      )}
      {failed && (
        <Alert severity="error" sx={{ my: 1 }}>
          The last run stopped: {failed.error}
        </Alert>
      )}
      {result && result.notes.length > 0 && !outdated && (
        <Alert severity="warning" sx={{ my: 1 }}>
          {result.notes.join("; ")}
        </Alert>
      )}
      <Mirror
        durationS={durationS} sampleRateHz={recording.sample_rate_hz} outdated={outdated} look={look}
        before={{ sound: beforeSound, overview: before.data }} after={afterSound && { sound: afterSound, overview: after.data }}
        clippedAtS={clipped} roomTone={shownTone} edits={edits} afterEdits={afterEdits}
        onTakeBack={(cut) => edit({ cuts: cuts.filter((c) => c.start_s !== cut.start_s) })}
        selection={selection} onSelect={setSelection} view={view} onView={setView} player={player}
      />
      <PlaybackBar
        player={player} state={state} durationS={durationS} edits={edits} hasAfter={result !== null}
        louderDb={louderDb} look={look} onLook={setLook}
      >
        <EndsButton recording={recording} onSet={makeEnds} />
        <RoomToneChoice recording={recording} onSelect={setSelection} onListen={listen} />
        <KeysHelp keys={KEYS} more="On the picture: drag selects, a press moves the playhead, the wheel or two fingers zoom, Shift and the wheel move along." />
      </PlaybackBar>
      <SelectionTools
        recording={recording} selection={selection} onSelect={setSelection} onCut={cutOut}
        afterSound={outdated ? null : afterSound} afterEdits={afterEdits}
      />
      {types.data && (
        <LevelPath
          steps={steps} types={types.data} levels={levels} chosen={chosen}
          source={`${(recording.sample_rate_hz / 1000).toString()} kHz, ${recording.channels === 1 ? "mono" : "stereo"}`}
          onChoose={setChosen}
          onSwitch={(at, enabled) => act({ kind: "switch", at, enabled })}
          onMove={(from, to) => {
            act({ kind: "move", from, to });
            if (chosen === from) setChosen(to);
          }}
          onRemove={(at) => act({ kind: "remove", at })}
          onAdd={(type, at) => {
            act({ kind: "add", step: newStep(type), at });
            setChosen(at);
          }}
        />
      )}
      {chosenStep && chosenType && chosen !== null && (
        <StepEditor
          key={`${chosen}-${chosenStep.type}`} step={chosenStep} type={chosenType}
          sentence={recording.chain_sentences[chosen]}
          point={chosen < known ? result?.points[chosen] : undefined}
          onSet={(params) => act({ kind: "set", at: chosen, params })}
          onRemove={() => act({ kind: "remove", at: chosen })}
        />
      )}
      <SaveRecipeDialog
        open={saving} steps={steps} onClose={() => setSaving(false)}
        onSaved={(name) => setSaid(`Saved as “${name}”`)}
      />
      <Snackbar open={said !== null} autoHideDuration={4000} onClose={() => setSaid(null)} message={said} />
    </Box>
  );
}
