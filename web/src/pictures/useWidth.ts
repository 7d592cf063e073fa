import { useCallback, useState } from "react";

/** Width of an element, followed as it changes; `otherwise` until it is known. */
export function useWidth(otherwise: number): [number, (element: HTMLElement | null) => void] {
  const [width, setWidth] = useState(otherwise);
  const ref = useCallback((element: HTMLElement | null) => {
    if (!element) return;
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setWidth(Math.round(entry.contentRect.width));
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  return [width, ref];
}
