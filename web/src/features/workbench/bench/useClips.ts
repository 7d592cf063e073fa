import { useMemo } from "react";

import { toOriginal, type Edits } from "../../../audio/cutTimes";
import type { Bench } from "./useBench";

/** Two clip marks closer than this are one place to look at. */
const CLIP_APART_S = 0.05;

/** Where the recording clips, in times of the original, and the way from one place to the next. */
export function useClips({ recording, sounds, goTo }: Bench) {
  const clippedAtS = useMemo(
    () => (recording.measures?.clipped_at_s ?? []).map((leftS) => toOriginal(leftS, recording as Edits)),
    [recording],
  );
  const toClip = (forward: boolean) => {
    const nowS = sounds.playback.timeNowS;
    const next = forward
      ? clippedAtS.find((atS) => atS > nowS + CLIP_APART_S)
      : clippedAtS.findLast((atS) => atS < nowS - CLIP_APART_S);
    if (next !== undefined) goTo(next);
  };
  return { clippedAtS, toClip };
}
