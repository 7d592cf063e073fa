import { useEffect, useRef } from "react";

import type { Playback, Side } from "../../audio/playback";

interface Acts {
  player: Playback;
  onUndo: () => void;
  onRedo: () => void;
  onLoop: () => void;
  /** Cut out what is selected. */
  onCut: () => void;
  /** Closer (above one) or wider, around the playhead. */
  onZoom: (factor: number) => void;
  onWhole: () => void;
  /** Later (above zero) or earlier, in lengths of what is shown. */
  onMove: (lengths: number) => void;
  /** Add a marker at the playhead. */
  onMarker: () => void;
  onRun: () => void;
  onDeliver: () => void;
  /** Open the list of steps to add. */
  onAdd: () => void;
  /** Open a step's settings, by its place. */
  onStep: (index: number) => void;
  /** To the next clip mark, or the one before. */
  onClip: (forward: boolean) => void;
  /** To the next event of a repair, or the one before. */
  onEvent: (forward: boolean) => void;
}

const JUMP_S = 5;
const ZOOM = 2;
const MOVE = 0.25;

/** What the keys of the workbench do, for the page that tells them. */
export const KEYS: readonly [string, string][] = [
  ["Space", "play or pause"],
  ["B, held", "hear before"],
  ["L", "loop the passage while settings are turned"],
  ["M", "play before and after equally loud"],
  ["R", "hear only what is removed, or after again"],
  ["\u2190 \u2192", "5 seconds back or on"],
  ["+ \u2212", "zoom in or out around the playhead"],
  ["0", "show the whole recording"],
  ["Shift + \u2190 \u2192", "move what is shown"],
  ["C, Shift + C", "next clip mark, or the one before"],
  ["E, Shift + E", "next event that a repair has mended, or the one before"],
  ["X", "cut out the selection"],
  ["N", "add a marker at the playhead"],
  ["Ctrl + Enter", "run the chain"],
  ["D", "deliver a file"],
  ["A", "add a step at the end"],
  ["1 to 9", "open a step and go to its first setting"],
  ["Ctrl + Z, Ctrl + Shift + Z", "undo, redo"],
  ["Esc in a field", "leave the field"],
  ["Alt + \u2190 \u2192 on a step", "move the step"],
  ["Ctrl + D on a step", "duplicate the step"],
  ["Delete on a step", "remove the step"],
  ["H, held over an EQ handle", "hunt: sweep a narrow boost, let go to leave a cut"],
  ["?", "show or hide these keys"],
];

/** What takes every key, and what takes those that press or move it. */
const TYPED = "input:not([type=checkbox]):not([type=range]), textarea, select, [role=menu], [role=combobox], [role=dialog]";
const PRESSED = "input, button, a, [role=slider]";
const OF_PRESSED = [" ", "Enter", "ArrowLeft", "ArrowRight", "ArrowUp", "ArrowDown", "+", "-", "="];

/** Whether a key belongs to the element that has the focus. */
function isTaken(target: EventTarget | null, key: string): boolean {
  if (!(target instanceof Element)) return false;
  return target.closest(TYPED) !== null || (OF_PRESSED.includes(key) && target.closest(PRESSED) !== null);
}

/** Keys of the workbench, as in `KEYS`. */
export function useKeys(acts: Acts) {
  const now = useRef(acts);
  useEffect(() => {
    now.current = acts;
  });
  useEffect(() => {
    let held: Side | null = null;
    const plain: Record<string, () => void> = {
      " ": () => now.current.player.toggle(),
      l: () => now.current.onLoop(),
      m: () => now.current.player.match(!now.current.player.snapshot().matched),
      r: () => now.current.player.choose(now.current.player.snapshot().side === "removed" ? "after" : "removed"),
      x: () => now.current.onCut(),
      c: () => now.current.onClip(true),
      C: () => now.current.onClip(false),
      e: () => now.current.onEvent(true),
      E: () => now.current.onEvent(false),
      "+": () => now.current.onZoom(ZOOM),
      "=": () => now.current.onZoom(ZOOM),
      "-": () => now.current.onZoom(1 / ZOOM),
      0: () => now.current.onWhole(),
      n: () => now.current.onMarker(),
      d: () => now.current.onDeliver(),
      a: () => now.current.onAdd(),
    };
    const onArrow = (event: KeyboardEvent, sign: number) => {
      const { player } = now.current;
      if (event.shiftKey) now.current.onMove(sign * MOVE);
      else player.seek(player.timeNowS + sign * JUMP_S);
    };
    const down = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
        // In a field being typed in, the browser's own undo is meant.
        if (event.target instanceof HTMLInputElement && event.target.type === "text") return;
        event.preventDefault();
        if (event.shiftKey) now.current.onRedo();
        else now.current.onUndo();
        return;
      }
      if ((event.ctrlKey || event.metaKey) && event.key === "Enter" && !document.querySelector("[role=dialog]")) {
        event.preventDefault();
        // What is typed in a field is taken over first.
        if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
        setTimeout(() => now.current.onRun());
        return;
      }
      if (event.key === "Escape" && event.target instanceof HTMLInputElement && !event.target.closest("[role=dialog], [role=menu]")) {
        // Out of a field, so that the keys of the page are its own again; once it has dropped what was typed.
        const field = event.target;
        setTimeout(() => field.blur());
        return;
      }
      if (isTaken(event.target, event.key) || event.ctrlKey || event.metaKey || event.altKey) return;
      if (/^[1-9]$/.test(event.key)) {
        event.preventDefault();
        now.current.onStep(Number(event.key) - 1);
      } else if (event.key === "ArrowLeft") onArrow(event, -1);
      else if (event.key === "ArrowRight") onArrow(event, 1);
      else if (event.key.toLowerCase() === "b" && !event.repeat) {
        held = now.current.player.snapshot().side;
        now.current.player.choose("before");
      } else if (!event.repeat || event.key === "+" || event.key === "-") {
        const act = plain[event.key] ?? plain[event.key.toLowerCase()];
        if (act) {
          event.preventDefault();
          act();
        }
      }
    };
    const up = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() === "b" && held !== null) {
        now.current.player.choose(held);
        held = null;
      }
    };
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
    };
  }, []);
}
