import { useEffect } from "react";

import type { Player, PlayerState } from "../../audio/player";

interface Acts {
  player: Player;
  state: PlayerState;
  onUndo: () => void;
  onRedo: () => void;
  /** Cut out what is selected. */
  onCut: () => void;
}

const JUMP_S = 5;

/** Whether a key belongs to the element that has the focus. */
function isTyping(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false;
  return target.closest("input, textarea, select, button, a, [role=slider], [role=menu], [role=combobox]") !== null;
}

/** Keys of the workbench: Space plays, B held is before, arrows move, X cuts, Ctrl+Z undoes. */
export function useKeys({ player, state, onUndo, onRedo, onCut }: Acts) {
  useEffect(() => {
    let held: PlayerState["side"] | null = null;
    const down = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
        // In a field being typed in, the browser's own undo is meant.
        if (event.target instanceof HTMLInputElement && event.target.type === "text") return;
        event.preventDefault();
        if (event.shiftKey) onRedo();
        else onUndo();
        return;
      }
      if (isTyping(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key === " ") {
        event.preventDefault();
        player.toggle();
      } else if (event.key.toLowerCase() === "b" && !event.repeat) {
        held = player.snapshot().side;
        player.choose("before");
      } else if (event.key.toLowerCase() === "x" && !event.repeat) onCut();
      else if (event.key === "ArrowLeft") player.seek(player.timeNowS - JUMP_S);
      else if (event.key === "ArrowRight") player.seek(player.timeNowS + JUMP_S);
    };
    const up = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() === "b" && held !== null) {
        player.choose(held);
        held = null;
      }
    };
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
    };
  }, [player, state.side, onUndo, onRedo, onCut]);
}
