import type { Recording, Step } from "../../../api/types";
import { noEdits, sameSound, type Edits } from "../../../audio/cutTimes";
import type { Playback } from "../../../audio/playback";
import { usePlayer } from "../../../audio/usePlayer";
import { useRecordingOverview } from "../../recordings";
import { useRunOverview } from "../../runs";
import type { Sound } from "../looking";
import type { TimeSpan } from "../mirrorView";
import { usePassageLoop } from "../usePassageLoop";
import type { useResult } from "../useResult";

const BINS = 2000;

/** Before and after to see and to hear: whole files, or the looping passage. */
export function useSounds(
  recording: Recording, steps: Step[], chosen: number | null, edits: Edits, { result, afterEdits }: Pick<ReturnType<typeof useResult>, "result" | "afterEdits">,
) {
  const before = useRecordingOverview(recording, BINS);
  const after = useRunOverview(result?.id ?? null, BINS);
  const louderDb =
    result?.before?.integrated_lufs != null && result.after?.integrated_lufs != null
      ? result.after.integrated_lufs - result.before.integrated_lufs
      : null;
  const voiceGainDb = result?.voice_gain_db ?? null;
  const file = usePlayer({
    url: result ? `/api/runs/${result.id}/pair/` : `/api/recordings/${recording.id}/audio/`,
    channels: result?.channels ?? recording.channels,
    hasAfter: result !== null,
    louderDb,
    voiceGainDb,
    edits: result ? afterEdits : edits,
    isEdited: result !== null && !sameSound({ ...afterEdits, mono: "" }, noEdits),
  });
  const passage = usePassageLoop(recording, file.player, steps, chosen, result?.id ?? null);
  const playback: Playback = passage.looping ? passage.loop : file.player;
  const afterSound: Sound | null = result && { kind: "runs", id: result.id };
  return {
    before, after, passage, playback, afterSound,
    beforeSound: { kind: "recordings", id: recording.id } satisfies Sound,
    state: passage.looping ? passage.state : file.state,
    /** How much louder after is than before, of what plays. */
    difference: passage.looping ? passage : { louderDb, voiceGainDb },
    /** Play a stretch of the recording itself. */
    listen: (span: TimeSpan) => {
      passage.setLooping(false);
      file.player.choose("before");
      file.player.seek(span.startS);
      void file.player.play(span.endS);
    },
  };
}
