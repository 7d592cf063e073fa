import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Snackbar from "@mui/material/Snackbar";
import Typography from "@mui/material/Typography";
import { useCallback, useMemo, useState } from "react";
import { Link, useParams } from "react-router";

import type { Finding, Levels, Params, Recipe, Recording, Run, Step, Target } from "../../api/types";
import { noEdits, sameSound, toOriginal, withCut, type Edits } from "../../audio/cutTimes";
import type { Playback } from "../../audio/playback";
import { usePlayer } from "../../audio/usePlayer";
import { SaveRecipeDialog, useRecipes, useStepTypes } from "../recipes";
import { useRecording, useRecordingOverview } from "../recordings";
import type { Live } from "../live";
import { useTargets } from "../targets";
import { useCancelRun, useRunOverview, useStartRun } from "../runs";
import { KeysHelp } from "../../app/KeysDialog";
import { useDismiss, useSetTarget } from "./api";
import { commonSteps, newStep } from "./chainHistory";
import { sameSteps } from "../../chains/sameSteps";
import { AdviceButton } from "./AdviceButton";
import { proposedStep, usualPlace } from "./adviceActs";
import { BlindPick } from "./BlindPick";
import { changeName, earlierChanges } from "./chainWords";
import type { Limit } from "./LevelPicture";
import { DeliverDialog } from "./DeliverDialog";
import { LevelBars } from "./LevelBars";
import { LevelPath } from "./LevelPath";
import { EmptyChain } from "./EmptyChain";
import { ElsewhereNote } from "./ElsewhereNote";
import { focusSoon, MIRROR, STEP_EDITOR } from "./focusing";
import type { Look } from "./drawSide";
import type { Sound } from "./looking";
import { MeasuringPage } from "./MeasuringPage";
import { learnedFrom } from "./foundRoomTone";
import { Mirror } from "./Mirror";
import { moved, showing, zoomed, type TimeSpan } from "./mirrorView";
import { PlaybackBar } from "./PlaybackBar";
import { ResultsMenu } from "./ResultsMenu";
import { RoomToneChoice } from "./RoomToneBar";
import { SelectionTools } from "./SelectionTools";
import { StepEditor } from "./StepEditor";
import { didHere } from "./stepWords";
import { useBroughtChain } from "./useBroughtChain";
import { useChain } from "./useChain";
import { useFit } from "./useFit";
import { useFolded } from "./useFolded";
import { KEYS, useKeys } from "./useKeys";
import { useMetered } from "./useMetered";
import { TargetButton } from "./TargetButton";
import { TimingButton, withMarker } from "./timing";
import { usePassageLoop } from "./usePassageLoop";
import { useResult } from "./useResult";
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

/** Levels of the recording and after each step: of the passage's estimate, or of the run. */
function levelsAlong(recording: Recording, run: Run | null, steps: Step[], live: Live): (Levels | null)[] {
  if (live.tail?.points.length === steps.length && live.steps.length === steps.length) {
    return [live.tail.before, ...live.tail.points.map((point) => point.levels)];
  }
  const first = run?.before ?? recording.measures;
  // What a step did is known as long as nothing before it, nor itself, has changed since.
  const known = run ? commonSteps(steps, run.chain as Step[]) : 0;
  return [first, ...steps.map((_, i) => (i < known ? (run?.points[i]?.levels ?? null) : null))];
}

function Workbench({ recording }: { recording: Recording }) {
  const stepTypes = useStepTypes();
  const types = useMemo(() => stepTypes.data ?? [], [stepTypes.data]);
  const recipes = useRecipes();
  const isRecipe = useCallback((id: string) => recipes.data?.some((r) => r.id === id) ?? false, [recipes.data]);
  const startRun = useStartRun();
  const cancelRun = useCancelRun();
  const targets = useTargets();
  const setTarget = useSetTarget(recording.id);
  const dismiss = useDismiss(recording.id);
  const { history, act, settle, applyRecipe, makeEnds, elsewhere, decide, error: chainError, reset } = useChain(recording, useBroughtChain(), isRecipe);
  const { steps, edits } = history;
  const durationS = recording.duration_s ?? 0;
  const [wanted, setChosen] = useState(0);
  // Steps can go while one is open; the last one that is left opens instead.
  const chosen = steps.length > 0 ? Math.min(wanted, steps.length - 1) : null;
  const chosenStep = chosen === null ? undefined : steps[chosen];
  const [selection, setSelection] = useState<TimeSpan | null>(null);
  const [look, setLook] = useState<Look>("dB");
  const [view, setView] = useState<TimeSpan>({ startS: 0, endS: durationS });
  const [picking, setPicking] = useState(false);
  const [saving, setSaving] = useState(false);
  const [metered, setMetered] = useMetered();
  const [delivering, setDelivering] = useState(false);
  const [said, setSaid] = useState<string | null>(null);
  const [adviceAt, setAdviceAt] = useState<HTMLElement | null>(null);
  const [folded, fold] = useFolded(chosenStep?.type ?? "");
  const { result, done, delivered, choose, busyRun, failed, afterEdits, changes } = useResult(recording.id, steps, edits, types);
  const outdated = changes.length > 0;
  /** The focus of the tools that go with a selection stays beside where it was. */
  const select = (span: TimeSpan | null) => {
    setSelection(span);
    if (span === null) focusSoon(MIRROR);
  };
  const edit = (change: Partial<Edits>) => act({ kind: "edit", edits: { ...edits, ...change } });
  // What was measured is what the server holds; the page may be a moment ahead.
  const measured = recording as Edits;
  const cutOut = (span: TimeSpan) => {
    edit({ cuts: withCut(edits.cuts, span) });
    setSelection(null);
  };

  const before = useRecordingOverview(recording, BINS);
  const after = useRunOverview(result?.id ?? null, BINS);
  const louderDb =
    result?.before?.integrated_lufs != null && result.after?.integrated_lufs != null
      ? result.after.integrated_lufs - result.before.integrated_lufs
      : null;
  const file = usePlayer({
    url: result ? `/api/runs/${result.id}/pair/` : `/api/recordings/${recording.id}/audio/`,
    channels: result?.channels ?? recording.channels,
    hasAfter: result !== null,
    louderDb,
    voiceGainDb: result?.voice_gain_db ?? null,
    edits: result ? afterEdits : edits,
    isEdited: result !== null && !sameSound({ ...afterEdits, mono: "" }, noEdits),
  });
  const bench = usePassageLoop(recording, file.player, steps, chosen, result?.id ?? null);
  const { passage, live } = bench;
  const playback: Playback = bench.looping ? bench.loop : file.player;
  const state = bench.looping ? bench.state : file.state;

  // A chain that the server refuses is told as a fault; there is nothing to run then.
  const settled = () => settle().then(() => true, () => false);
  const runChain = async () => {
    if (await settled()) startRun.mutate({ recording: recording.id });
  };
  const adopt = useCallback((fitted: Step[]) => act({ kind: "replace", steps: fitted }), [act]);
  const onFitting = useFit(done, steps, adopt);
  const fit = async () => {
    if (await settled()) startRun.mutate({ recording: recording.id, fit: true }, { onSuccess: onFitting });
  };
  const apply = (recipe: Recipe) => applyRecipe(recipe.id);
  const goTo = (timeS: number) => {
    playback.seek(timeS);
    setView((shown) => showing(shown, timeS, durationS));
  };
  const listen = (span: TimeSpan) => {
    bench.setLooping(false);
    file.player.choose("before");
    file.player.seek(span.startS);
    void file.player.play(span.endS);
  };
  const takeAdvice = (finding: Finding) => {
    const step = proposedStep(finding, types);
    const with_ = finding.act?.with ?? {};
    if (step) {
      const at = usualPlace(step.type, steps, types);
      act({ kind: "add", step, at });
      setChosen(at);
    } else if (finding.act?.kind === "go_to") {
      goTo(toOriginal(Number(with_.time_s), measured));
    } else if (finding.act?.kind === "mono") {
      edit({ mono: String(with_.choice) });
    } else if (finding.act?.kind === "mark_room_tone") {
      setSelection({ startS: 0, endS: Math.min(1, durationS) });
    } else if (finding.act?.kind === "move_step") {
      act({ kind: "move", from: Number(with_.from), to: Number(with_.to) });
      setChosen(Number(with_.to));
    } else if (finding.act?.kind === "set_params") {
      act({ kind: "set", at: Number(with_.at), params: with_.params as Params });
      setChosen(Number(with_.at));
    }
  };

  const clipped = useMemo(
    () => (recording.measures?.clipped_at_s ?? []).map((leftS) => toOriginal(leftS, recording as Edits)),
    [recording],
  );
  const toClip = (forward: boolean) => {
    const nowS = playback.timeNowS;
    const next = forward
      ? clipped.find((atS) => atS > nowS + CLIP_APART_S)
      : clipped.findLast((atS) => atS < nowS - CLIP_APART_S);
    if (next !== undefined) goTo(next);
  };
  useKeys({
    player: playback, onClip: toClip, onLoop: () => bench.setLooping(!bench.looping),
    onUndo: () => act({ kind: "undo" }), onRedo: () => act({ kind: "redo" }), onCut: () => selection && cutOut(selection),
    onZoom: (factor) => setView((shown) => zoomed(showing(shown, playback.timeNowS, durationS), playback.timeNowS, factor, durationS)),
    onRun: () => steps.length > 0 && busyRun === null && void runChain(), onDeliver: () => steps.length > 0 && setDelivering(true),
    onAdd: () => document.querySelector<HTMLElement>("[data-add-step=end]")?.click(),
    onStep: (index) => {
      if (index >= steps.length) return;
      setChosen(index);
      focusSoon(STEP_EDITOR, "input, select", true);
    },
    onMarker: () => edit({ markers: withMarker(edits.markers, playback.timeNowS) }),
    onWhole: () => setView({ startS: 0, endS: durationS }),
    onMove: (lengths) => setView((shown) => moved(shown, lengths * (shown.endS - shown.startS), durationS)),
  });
  const levels = levelsAlong(recording, result, steps, live);
  const chosenType = types.find((t) => t.type === chosenStep?.type);
  const points = live.tail?.points.length === steps.length ? live.tail.points : [];
  const chainFindings = (points.length > 0 ? live.tail?.advice : null) ?? [];
  const openFindings = chainFindings.filter((f) => !recording.dismissed?.includes(f.code));
  const tone = recording.room_tone;
  const marked = tone?.recording === recording.id ? [{ startS: tone.start_s, endS: tone.end_s, found: false }] : [];
  const shownTones = tone ? marked : learnedFrom(recording).map((f) => ({ ...f, found: true }));
  const beforeSound: Sound = { kind: "recordings", id: recording.id };
  const afterSound: Sound | null = result && { kind: "runs", id: result.id };
  const recipe = recipes.data?.find((r) => r.id === recording.recipe);
  const changedRecipe = recipe && !sameSteps(recipe.steps as Step[], steps) ? recipe : null;
  const fault = chainError ?? startRun.error ?? cancelRun.error ?? dismiss.error ?? setTarget.error ?? before.error;
  return (
    <Box>
      <WorkbenchHead
        recording={recording} chainLine={chainLine(recording, steps, result, changes)} recipes={recipes.data ?? []}
        undoes={changeName(history.past.at(-1), history, types)} earlier={earlierChanges(history, types)}
        redoes={history.future[0] ? changeName(history, history.future[0], types) : null}
        canRun={steps.length > 0} busyRun={busyRun} isCurrent={result !== null && !outdated} onDeliver={() => setDelivering(true)}
        onUndo={(count = 1) => { for (let i = 0; i < count; i += 1) act({ kind: "undo" }); }} onRedo={() => act({ kind: "redo" })}
        onApply={apply}
        onSave={() => setSaving(true)} onRun={() => void runChain()}
        onCancel={() => busyRun && cancelRun.mutate(busyRun.id)}
        beside={
            <TargetButton
              recording={recording} targets={targets.data ?? []} result={result} outdated={outdated} canFit={steps.length > 0 && busyRun === null}
              onChoose={(target) => setTarget.mutate(target)} onFit={() => void fit()}
            />
        }
      >
        <AdviceButton
          intake={recording.advice} chain={chainFindings} dismissed={recording.dismissed ?? []} steps={steps} anchor={adviceAt} onAnchor={setAdviceAt}
          onAct={takeAdvice} onGoTo={(leftS) => goTo(toOriginal(leftS, measured))} onDismiss={(codes) => dismiss.mutate(codes)}
        />
        <TimingButton
          recording={recording} edits={edits} nowS={() => playback.timeNowS} onEdit={edit} onEnds={makeEnds} onGoTo={goTo} settle={settled}
        />
        <ResultsMenu results={done} delivered={delivered} shown={result} steps={steps} types={types} onChoose={choose} />
      </WorkbenchHead>
      {fault && (
        <Alert severity="error" onClose={reset} sx={{ my: 1 }}>
          {fault.message}
        </Alert>
      )}
      {elsewhere && <ElsewhereNote theirs={elsewhere} mine={history} types={types} onDecide={decide} />}
      {live.fault && <Alert severity="error" sx={{ my: 1 }}>{live.fault}</Alert>}
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
        durationS={durationS} sampleRateHz={recording.sample_rate_hz} outdated={outdated} look={look} folded={folded}
        before={{ sound: beforeSound, overview: before.data }} after={afterSound && { sound: afterSound, overview: after.data }}
        clippedAtS={clipped} roomTones={shownTones} edits={edits} afterEdits={afterEdits}
        onTakeBack={(cut) => edit({ cuts: edits.cuts.filter((c) => c.start_s !== cut.start_s) })}
        onGoTo={goTo} selection={selection} onSelect={setSelection} view={view} onView={setView} player={playback}
        passage={passage} onPassage={bench.setPassage}
      />
      <PlaybackBar
        player={playback} state={state} durationS={durationS} edits={edits} hasAfter={bench.looping || result !== null}
        looping={passage ? bench.looping : null} onLoop={bench.setLooping}
        onBlindPick={bench.span && points.length > 0 ? () => { bench.setLooping(true); setPicking(true); } : null}
        difference={bench.looping ? bench : { louderDb, voiceGainDb: result?.voice_gain_db ?? null }} look={look} onLook={setLook}
      >
        <RoomToneChoice recording={recording} onSelect={setSelection} onListen={listen} />
        <Button size="small" variant="text" aria-expanded={!folded} onClick={() => fold(!folded)} title="The mirror, only so high that its marks stay" sx={{ fontWeight: 400, color: "text.secondary", whiteSpace: "nowrap", minWidth: 0, px: 1 }}>
          {folded ? "Show waveform" : "Hide waveform"}
        </Button>
        <Button size="small" variant="text" aria-expanded={metered} onClick={() => setMetered(!metered)} title="Level, loudness and true peak of before and after while they play" sx={{ fontWeight: 400, color: "text.secondary", whiteSpace: "nowrap", minWidth: 0, px: 1 }}>
          Levels
        </Button>
        <KeysHelp keys={KEYS} more="On the picture: drag selects, a press moves the playhead, the wheel or two fingers zoom, Shift and the wheel move along. The grips on the axis move the passage." />
      </PlaybackBar>
      {metered && <LevelBars player={playback} playing={state.playing} />}
      <SelectionTools
        recording={recording} selection={selection} onSelect={select} onCut={cutOut} onPassage={bench.setPassage}
        afterSound={outdated ? null : afterSound} afterEdits={afterEdits}
      />
      {types.length > 0 && (
        <LevelPath
          steps={steps} types={types} levels={levels} chosen={chosen}
          source={`${(recording.sample_rate_hz / 1000).toString()} kHz, ${recording.channels === 1 ? "mono" : "stereo"}`}
          estimated={points.length > 0 && live.head?.is_settled === false}
          limits={limitsOf(targets.data?.find((t) => t.id === recording.target))}
          did={steps.map((step, i) => didHere(step, points[i]?.report))}
          findings={steps.map((_, i) => openFindings.filter((f) => f.at_step === i).length)}
          onFindings={(_, anchor) => setAdviceAt(anchor)}
          onChoose={setChosen}
          onSwitch={(at, enabled) => act({ kind: "switch", at, enabled })}
          onMove={(from, to) => {
            act({ kind: "move", from, to });
            if (chosen === from) setChosen(to);
          }}
          onRemove={(at) => act({ kind: "remove", at })}
          onDuplicate={(at) => act({ kind: "duplicate", at })}
          onAdd={(type, at) => {
            act({ kind: "add", step: newStep(type), at });
            setChosen(at);
            focusSoon(STEP_EDITOR);
          }}
        />
      )}
      {types.length > 0 && steps.length === 0 && (
        <EmptyChain
          recipes={recipes.data ?? []} types={types} onApply={apply}
          onAdd={(type) => {
            act({ kind: "add", step: newStep(type), at: 0 });
            focusSoon(STEP_EDITOR);
          }}
        />
      )}
      {chosenStep && chosenType && chosen !== null && (
        <StepEditor
          key={`${chosen}-${chosenStep.type}`} step={chosenStep} type={chosenType}
          sentence={points[chosen]?.sentence ?? recording.chain_sentences[chosen]}
          point={points[chosen]} picture={bench.picture} at={bench.at}
          onSet={(params, gesture) => act({ kind: "set", at: chosen, params, ...(gesture !== undefined && { gesture }) })}
          onRemove={() => act({ kind: "remove", at: chosen })}
          onTry={(params) => bench.tryOut(params)}
          voiceDbfs={levels[chosen]?.voice_level_dbfs ?? null}
        />
      )}
      {bench.span && <BlindPick open={picking} onClose={() => setPicking(false)} recordingId={recording.id} loop={bench.loop} steps={steps} span={bench.span} />}
      <DeliverDialog
        open={delivering} onClose={() => setDelivering(false)} recording={recording} targets={targets.data ?? []} result={outdated ? null : result} settle={settled}
      />
      <SaveRecipeDialog
        open={saving} steps={steps} from={changedRecipe} onClose={() => setSaving(false)}
        onSaved={(name, id) => {
          setSaid(`Saved as “${name}”`);
          applyRecipe(id);
        }}
      />
      <Snackbar open={said !== null} autoHideDuration={4000} onClose={() => setSaid(null)} message={said} />
    </Box>
  );
}

/** What a target bounds of the levels that the level path shows. */
function limitsOf(target: Target | undefined): Limit[] {
  const high = (measure: string) => target?.bounds?.[measure]?.high;
  const peaks = [high("true_peak_dbtp"), high("sample_peak_dbfs")].filter((v) => v != null);
  const noise = high("noise_floor_dbfs");
  return [
    ...(peaks.length > 0 ? [{ name: "ceiling", db: Math.min(...peaks) }] : []),
    ...(noise != null ? [{ name: "noise at most", db: noise }] : []),
  ];
}

/** What the chain is, and how it stands to the recipe and to the last run. */
function chainLine(recording: Recording, steps: Step[], result: Run | null, changes: string[]): string {
  if (steps.length === 0) return "No chain yet: add a step below, or apply a recipe";
  const version = recording.recipe_version ? `, version ${recording.recipe_version}` : "";
  const changed = recording.recipe_steps && !sameSteps(recording.recipe_steps as Step[], steps) ? ", changed here" : "";
  const [first, ...more] = changes;
  const since = first === undefined ? "" : `, since the last run: ${first}${more.length > 0 ? ` and ${more.length} more` : ""}`;
  return `${recording.recipe_name ?? "Own chain"}${version}${changed}${result === null ? ", not run yet" : since}`;
}
