import { useEffect, useState, useSyncExternalStore } from "react";

import { Loop } from "./loop";
import { Player, type PlayerState, type Sound } from "./player";

/** A player for as long as the page shows it. */
export function usePlayer(sound: Sound | null): { player: Player; state: PlayerState } {
  const [player] = useState(() => new Player());
  const state = useSyncExternalStore(player.subscribe, player.snapshot);
  const { url, channels, hasAfter, louderDb, edits, isEdited } = sound ?? {};
  useEffect(() => {
    if (url !== undefined && channels !== undefined) {
      player.load({
        url, channels, hasAfter: hasAfter ?? false, louderDb: louderDb ?? null, ...(edits && { edits }), isEdited: isEdited ?? false,
      });
    }
  }, [player, url, channels, hasAfter, louderDb, edits, isEdited]);
  useEffect(() => () => player.close(), [player]);
  return { player, state };
}

/** A passage's loop for as long as the page shows it. */
export function useLoop(): { loop: Loop; state: PlayerState } {
  const [loop] = useState(() => new Loop());
  const state = useSyncExternalStore(loop.subscribe, loop.snapshot);
  useEffect(() => () => loop.close(), [loop]);
  return { loop, state };
}
