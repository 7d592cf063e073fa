import { useEffect, useState, useSyncExternalStore } from "react";

import { Loop } from "./loop";
import type { Controls, Playback } from "./playback";
import { Player, type Sound } from "./player";

/** A player for as long as the page shows it. */
export function usePlayer(sound: Sound | null): { player: Player; state: Controls } {
  const [player] = useState(() => new Player());
  const state = useSyncExternalStore(player.subscribe, player.controls);
  const { url, channels, hasAfter, louderDb, voiceGainDb, edits, isEdited } = sound ?? {};
  useEffect(() => {
    if (url !== undefined && channels !== undefined) {
      player.load({
        url, channels, hasAfter: hasAfter ?? false, louderDb: louderDb ?? null, voiceGainDb: voiceGainDb ?? null, ...(edits && { edits }), isEdited: isEdited ?? false,
      });
    }
  }, [player, url, channels, hasAfter, louderDb, voiceGainDb, edits, isEdited]);
  useEffect(() => () => player.close(), [player]);
  return { player, state };
}

/** A passage's loop for as long as the page shows it. */
export function useLoop(): { loop: Loop; state: Controls } {
  const [loop] = useState(() => new Loop());
  const state = useSyncExternalStore(loop.subscribe, loop.controls);
  useEffect(() => () => loop.close(), [loop]);
  return { loop, state };
}

/** Position in the recording, told a few times a second while it plays. */
export function useTimeS(playback: Playback): number {
  return useSyncExternalStore(playback.subscribe, () => playback.snapshot().timeS);
}
