import Button from "@mui/material/Button";

import { KeysHelp } from "../../../app/KeysDialog";
import { learnedFrom } from "../foundRoomTone";
import { LevelBars } from "../LevelBars";
import { Mirror } from "../Mirror";
import { PlaybackBar } from "../PlaybackBar";
import { RoomToneChoice } from "../RoomToneBar";
import { SelectionTools } from "../SelectionTools";
import { adding, marksOf, mending, refusing, repairsIn, RepairStrip } from "../repairs";
import { foundBy, SpeakerStrip } from "../speakers";
import { KEYS } from "../useKeys";
import { useMetered } from "../useMetered";
import { useTheBench } from "./BenchContext";
import { useBenchKeys } from "./useBenchKeys";
import { useClips } from "./useClips";

const BAR_BUTTON = { fontWeight: 400, color: "text.secondary", whiteSpace: "nowrap", minWidth: 0, px: 1 };

/** The mirror, what plays, and what is selected. */
export function BenchPicture() {
  const bench = useTheBench();
  const { recording, durationS, edits, afterEdits, drawn, folded, selection, result, sounds } = bench;
  const { playback, passage, afterSound } = sounds;
  const { clippedAtS, toClip } = useClips(bench);
  const [metered, setMetered] = useMetered();
  useBenchKeys(bench, toClip);
  const speakers = edits.speakers ?? foundBy(result);
  const marks = marksOf(result, edits.repairs);
  const repairs = repairsIn(bench.steps);
  const tone = recording.room_tone;
  const marked = tone?.recording === recording.id ? [{ startS: tone.start_s, endS: tone.end_s, found: false }] : [];
  const roomTones = tone ? marked : learnedFrom(recording).map((f) => ({ ...f, found: true }));
  return (
    <>
      <Mirror
        durationS={durationS} sampleRateHz={recording.sample_rate_hz} outdated={bench.outdated} look={drawn} folded={folded}
        before={{ sound: sounds.beforeSound, overview: sounds.before.data }} after={afterSound && { sound: afterSound, overview: sounds.after.data }}
        clippedAtS={clippedAtS} roomTones={roomTones} edits={edits} afterEdits={afterEdits}
        onTakeBack={(cut) => bench.edit({ cuts: edits.cuts.filter((c) => c.start_s !== cut.start_s) })}
        onGoTo={bench.goTo} selection={selection} onSelect={bench.setSelection} view={bench.view} onView={bench.setView} player={playback}
        passage={passage.passage} onPassage={passage.setPassage}
      />
      {speakers && (
        <SpeakerStrip
          speakers={speakers} corrected={edits.speakers !== null} view={bench.view} playheadS={() => playback.timeNowS}
          onSet={(next) => bench.edit({ speakers: next })} onGoTo={bench.goTo}
        />
      )}
      {(marks.length > 0 || (repairs.length > 0 && selection)) && (
        <RepairStrip
          marks={marks} types={bench.types} view={bench.view} offered={repairs} selection={selection}
          onRefuse={(mark) => bench.edit({ repairs: refusing(edits.repairs, mark) })} onMend={(mark) => bench.edit({ repairs: mending(edits.repairs, mark) })}
          onAdd={(span) => bench.edit({ repairs: adding(edits.repairs, span) })} onGoTo={bench.goTo}
        />
      )}
      <PlaybackBar
        player={playback} state={sounds.state} durationS={durationS} edits={edits} hasAfter={passage.looping || result !== null}
        looping={passage.passage ? passage.looping : null} onLoop={passage.setLooping}
        onBlindPick={passage.span && bench.points.length > 0 ? () => { passage.setLooping(true); bench.setDialog("pick"); } : null}
        difference={sounds.difference} look={drawn} onLook={bench.setDrawn}
      >
        <RoomToneChoice recording={recording} onSelect={bench.setSelection} onListen={sounds.listen} />
        <Button size="small" variant="text" aria-expanded={!folded} onClick={() => bench.fold(!folded)} title="The mirror, only so high that its marks stay" sx={BAR_BUTTON}>
          {folded ? "Show waveform" : "Hide waveform"}
        </Button>
        <Button size="small" variant="text" aria-expanded={metered} onClick={() => setMetered(!metered)} title="Level, loudness and true peak of before and after while they play" sx={BAR_BUTTON}>
          Levels
        </Button>
        <KeysHelp keys={KEYS} more="On the picture: drag selects, a press moves the playhead, the wheel or two fingers zoom, Shift and the wheel move along. The grips on the axis move the passage." />
      </PlaybackBar>
      {metered && <LevelBars player={playback} playing={sounds.state.playing} />}
      <SelectionTools
        recording={recording} selection={selection} onSelect={bench.select} onCut={bench.cutOut} onPassage={passage.setPassage}
        afterSound={bench.outdated ? null : afterSound} afterEdits={afterEdits}
      />
    </>
  );
}
