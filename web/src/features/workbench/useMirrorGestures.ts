import { useEffect, useRef, useState, type PointerEvent, type RefObject } from "react";

import { moved, zoomed, type TimeSpan } from "./mirrorView";

interface Acts {
  view: TimeSpan;
  durationS: number;
  onView: (view: TimeSpan) => void;
  onSelect: (span: TimeSpan | null) => void;
  onSeek: (timeS: number) => void;
}

const LEAST_DRAG_PX = 4;
const ZOOM_PER_PX = 1.0025;
/** A pinch on a touch pad tells small numbers. */
const PINCH_PER_PX = 1.015;

/** Press to seek, drag to select, wheel and pinch to zoom, sideways or with Shift to move along. */
export function useMirrorGestures(area: RefObject<HTMLElement | null>, acts: Acts) {
  const { view, durationS, onView, onSelect, onSeek } = acts;
  const [dragFrom, setDragFrom] = useState<number | null>(null);
  const [pointerS, setPointerS] = useState<number | null>(null);
  const touches = useRef(new Map<number, number>());
  const now = useRef(acts);
  useEffect(() => {
    now.current = acts;
  });

  useEffect(() => {
    const element = area.current;
    if (!element) return;
    const onWheel = (event: WheelEvent) => {
      // React's own wheel events are passive: they could not keep the page from scrolling.
      event.preventDefault();
      const { view: shown, durationS: wholeS, onView: show } = now.current;
      const rect = element.getBoundingClientRect();
      const lengthS = shown.endS - shown.startS;
      const sideways = event.shiftKey ? event.deltaY + event.deltaX : event.deltaX;
      if (!event.ctrlKey && Math.abs(sideways) > (event.shiftKey ? 0 : Math.abs(event.deltaY))) {
        show(moved(shown, (sideways / rect.width) * lengthS, wholeS));
        return;
      }
      const atS = shown.startS + ((event.clientX - rect.left) / rect.width) * lengthS;
      const base = event.ctrlKey ? PINCH_PER_PX : ZOOM_PER_PX;
      show(zoomed(shown, atS, base ** -event.deltaY, wholeS));
    };
    element.addEventListener("wheel", onWheel, { passive: false });
    return () => element.removeEventListener("wheel", onWheel);
  }, [area]);

  const timeAt = (event: PointerEvent<HTMLElement>) => {
    const rect = event.currentTarget.getBoundingClientRect();
    const share = Math.min(1, Math.max(0, (event.clientX - rect.left) / rect.width));
    return view.startS + share * (view.endS - view.startS);
  };
  const isDrag = (event: PointerEvent<HTMLElement>, fromS: number) => {
    const { width } = event.currentTarget.getBoundingClientRect();
    return (Math.abs(timeAt(event) - fromS) / (view.endS - view.startS)) * width >= LEAST_DRAG_PX;
  };
  const span = (a: number, b: number): TimeSpan => ({ startS: Math.min(a, b), endS: Math.max(a, b) });

  /** Two fingers: how far apart they are and where they are between, in pixels. */
  const pinch = () => {
    const [a, b] = [...touches.current.values()];
    return a === undefined || b === undefined ? null : { apart: Math.max(8, Math.abs(a - b)), middle: (a + b) / 2 };
  };
  const onPinch = (event: PointerEvent<HTMLElement>): boolean => {
    const before = pinch();
    touches.current.set(event.pointerId, event.clientX);
    const after = pinch();
    if (!before || !after) return false;
    const rect = event.currentTarget.getBoundingClientRect();
    const perPx = (view.endS - view.startS) / rect.width;
    const shifted = moved(view, (before.middle - after.middle) * perPx, durationS);
    const atS = shifted.startS + (after.middle - rect.left) * perPx;
    onView(zoomed(shifted, atS, after.apart / before.apart, durationS));
    return true;
  };

  const end = (event: PointerEvent<HTMLElement>) => {
    touches.current.delete(event.pointerId);
    setDragFrom(null);
  };
  return {
    pointerS,
    handlers: {
      onPointerDown: (event: PointerEvent<HTMLElement>) => {
        if (event.button !== 0) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        if (event.pointerType === "touch") touches.current.set(event.pointerId, event.clientX);
        setDragFrom(touches.current.size > 1 ? null : timeAt(event));
      },
      onPointerMove: (event: PointerEvent<HTMLElement>) => {
        setPointerS(timeAt(event));
        if (touches.current.has(event.pointerId) && onPinch(event)) return;
        if (dragFrom !== null && isDrag(event, dragFrom)) onSelect(span(dragFrom, timeAt(event)));
      },
      onPointerUp: (event: PointerEvent<HTMLElement>) => {
        if (dragFrom !== null && !isDrag(event, dragFrom)) {
          onSeek(timeAt(event));
          onSelect(null);
        }
        end(event);
      },
      onPointerCancel: end,
      onPointerLeave: () => setPointerS(null),
    },
  };
}
