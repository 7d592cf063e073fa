import { focusSoon, STEP_EDITOR } from "../focusing";
import { moved, showing, zoomed } from "../mirrorView";
import { marksOf, nextMark } from "../repairs";
import { withMarker } from "../timing";
import { useKeys } from "../useKeys";
import type { Bench } from "./useBench";

const EVENT_LEAD_S = 0.4;

/** The keys of the workbench. */
export function useBenchKeys(bench: Bench, toClip: (forward: boolean) => void) {
  const { act, steps, selection, setView, durationS, edits } = bench;
  const { playback, passage } = bench.sounds;
  useKeys({
    player: playback, onClip: toClip, onLoop: () => passage.setLooping(!passage.looping),
    onUndo: () => act({ kind: "undo" }), onRedo: () => act({ kind: "redo" }), onCut: () => selection && bench.cutOut(selection),
    onZoom: (factor) => setView((shown) => zoomed(showing(shown, playback.timeNowS, durationS), playback.timeNowS, factor, durationS)),
    onRun: () => bench.canRun && void bench.run(), onDeliver: () => steps.length > 0 && bench.setDialog("deliver"),
    onAdd: () => document.querySelector<HTMLElement>("[data-add-step=end]")?.click(),
    onStep: (index) => {
      if (index >= steps.length) return;
      bench.setChosen(index);
      focusSoon(STEP_EDITOR, "input, select", true);
    },
    onMarker: () => bench.edit({ markers: withMarker(edits.markers, playback.timeNowS) }),
    onEvent: (forward) => {
      // A little before it, so that it is heard in its place.
      const now = playback.timeNowS + (forward ? EVENT_LEAD_S : -EVENT_LEAD_S / 2);
      const mark = nextMark(marksOf(bench.result, edits.repairs), now, forward);
      if (mark) bench.goTo(Math.max(0, mark.start_s - EVENT_LEAD_S));
    },
    onWhole: () => setView({ startS: 0, endS: durationS }),
    onMove: (lengths) => setView((shown) => moved(shown, lengths * (shown.endS - shown.startS), durationS)),
  });
}
