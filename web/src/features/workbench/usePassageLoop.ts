/** The looping passage of the workbench: what is asked for, what plays, its figures. */

import { useMemo, useState } from "react";

import type { Params, Recording, Step } from "../../api/types";
import { editsOf, toLeft, type Edits } from "../../audio/cutTimes";
import type { Player } from "../../audio/player";
import { useLoop } from "../../audio/usePlayer";
import { useLive, usePassage } from "../live";

export function usePassageLoop(recording: Recording, player: Player, steps: Step[], chosen: number | null, resultId: string | null) {
  const [passage, setPassage] = usePassage(recording);
  const { loop, state } = useLoop();
  const [looping, setIsLooping] = useState(false);
  const [tried, setTried] = useState<{ at: number; params: Params } | null>(null);
  // Markers change no sound.
  const sound = JSON.stringify({ ...editsOf(recording), markers: [] });
  const edits = useMemo(() => JSON.parse(sound) as Edits, [sound]);
  const heard = useMemo(
    // Leaving the step ends what was tried on it.
    () => (tried === null || tried.at !== chosen ? steps : steps.map((s, i) => (i === tried.at ? { ...s, enabled: true, params: { ...s.params, ...tried.params } } : s))),
    [steps, tried, chosen],
  );
  const [startS, endS] = passage ? [toLeft(passage.startS, edits), toLeft(passage.endS, edits)] : [0, 0];
  const live = useLive(loop, {
    recordingId: recording.id, steps: heard, span: endS > startS ? { startS, endS } : null, opened: chosen, edits,
    sound: JSON.stringify([sound, recording.room_tone?.id, resultId]),
  });

  const setLooping = (on: boolean) => {
    if (on === looping || !passage) return;
    const [from, to] = on ? [player, loop] : [loop, player];
    const { playing, side, matched } = from.snapshot();
    from.pause();
    to.choose(side);
    to.match(matched);
    to.seek(from.timeNowS);
    setIsLooping(on);
    if (playing || on) void to.play();
  };
  /** Hear other settings of the open step while something is held. */
  const tryOut = (params: Params | null) => {
    setTried(params === null || chosen === null ? null : { at: chosen, params });
    if (params !== null && !looping) setLooping(true);
  };
  const { head, tail } = live;
  const louderDb = head?.before_lufs != null && head.after_lufs != null ? head.after_lufs - head.before_lufs : null;
  return {
    passage, setPassage, loop,
    /** In times of what the cuts leave. */
    span: endS > startS ? { startS, endS } : null,
    state, looping, setLooping, tryOut, live, louderDb, voiceGainDb: head?.voice_gain_db ?? null,
    /** Picture of the open step, as long as it is of that step. */
    picture: tail?.picture && chosen !== null && live.steps[chosen]?.type === steps[chosen]?.type ? tail.picture : null,
    /** Tells where the loop is, 0 to 1; null while it does not loop. */
    at: looping && endS > startS ? { loop, share: (timeS: number) => Math.min(1, Math.max(0, (toLeft(timeS, edits) - startS) / (endS - startS))) } : null,
  };
}
