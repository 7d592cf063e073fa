/** Keeps asking for the passage as the chain changes: one request at a time, the latest wins. */

import { useCallback, useEffect, useLayoutEffect, useRef, useState } from "react";

import { api, unwrap } from "../../api/client";
import type { PassageHead, PassageTail, Step } from "../../api/types";
import type { Shifts } from "../../audio/cutTimes";
import type { Loop } from "../../audio/loop";
import { askPassage, type Asked } from "./passage";

export interface Wanted {
  recordingId: string;
  steps: Step[];
  /** In times of what the cuts leave; null asks for nothing. */
  span: { startS: number; endS: number } | null;
  opened: number | null;
  edits: Shifts;
  /** Changes when the same chain sounds different: other cuts, another room tone, a run that ended. */
  sound: string;
}

export interface Live {
  head: PassageHead | null;
  tail: PassageTail | null;
  /** The steps that `tail` tells of. */
  steps: Step[];
  fault: string | null;
}

/** After so long without a change, what was estimated is settled on the whole recording. */
const SETTLE_MS = 2500;

const nothing: Live = { head: null, tail: null, steps: [], fault: null };

export function useLive(loop: Loop, wanted: Wanted): Live {
  const [live, setLive] = useState<Live>(nothing);
  const latest = useRef(wanted);
  const busy = useRef(false);
  const again = useRef(false);
  const gone = useRef(false);
  /** Which before the loop holds, so that it is sent once only. */
  const before = useRef<{ key: string; channels: Float32Array<ArrayBuffer>[] } | null>(null);
  const settling = useRef<ReturnType<typeof setTimeout> | null>(null);

  const ask = useCallback(async () => {
    if (busy.current) {
      again.current = true;
      return;
    }
    busy.current = true;
    again.current = true;
    const isWanted = () => again.current && !gone.current && latest.current.span !== null;
    while (isWanted()) {
      again.current = false;
      await askOnce(latest.current);
    }
    busy.current = false;

    async function askOnce(now: Wanted) {
      const { startS, endS } = now.span ?? { startS: 0, endS: 0 };
      const key = `${now.recordingId} ${now.sound} ${startS} ${endS}`;
      const known = before.current?.key === key ? before.current.channels : null;
      const asked: Asked = { steps: now.steps, startS, endS, withBefore: known === null, opened: now.opened };
      let head: PassageHead | null = null;
      try {
        const tail = await askPassage(now.recordingId, asked, (given) => {
          head = given.head;
          const half = known ? 0 : given.head.channels;
          const first = known ?? given.channels.slice(0, half);
          before.current = { key, channels: first };
          const { before_lufs: was, after_lufs: is } = given.head;
          const louderDb = was !== null && is !== null ? is - was : null;
          if (gone.current) return;
          loop.take(
            { sampleRateHz: given.head.sample_rate_hz, startS, before: first, after: given.channels.slice(half), louderDb, voiceGainDb: given.head.voice_gain_db },
            now.edits,
          );
        });
        if (!gone.current) setLive({ head, tail, steps: now.steps, fault: null });
      } catch (error) {
        const fault = error instanceof Error ? error.message : String(error);
        if (!gone.current) setLive((old) => ({ ...old, fault }));
      }
    }
  }, [loop]);

  const { recordingId, steps, span, opened, sound } = wanted;
  const [startS, endS] = [span?.startS, span?.endS];
  // Before anything is painted or kept: what is asked for early is heard early.
  useLayoutEffect(() => {
    latest.current = wanted;
  });
  useLayoutEffect(() => {
    void ask();
  }, [ask, recordingId, steps, startS, endS, opened, sound]);
  useEffect(() => {
    gone.current = false;
    return () => {
      gone.current = true;
    };
  }, []);

  // What is estimated is settled when nothing has changed for a while.
  const needsSettling = live.head !== null && !live.head.is_settled && live.head.can_settle && live.steps === steps;
  useEffect(() => {
    if (!needsSettling) return;
    settling.current = setTimeout(() => {
      const body = { steps: steps as unknown as Record<string, unknown>[] };
      unwrap(api.POST("/api/recordings/{id}/settle/", { params: { path: { id: recordingId } }, body })).then(
        // Nothing is answered when the chain has changed meanwhile.
        (settled) => settled && void ask(),
        () => undefined, // the next passage shows it
      );
    }, SETTLE_MS);
    return () => {
      if (settling.current) clearTimeout(settling.current);
    };
  }, [needsSettling, steps, recordingId, ask]);
  return live;
}
