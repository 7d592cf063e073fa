import { useEffect, useState, type RefObject } from "react";

/** So near the window counts as seen, so that a picture is there when it is scrolled to. */
const NEAR = "400px";

/** Whether an element has come near what is seen; once true it stays so. */
export function useSeen(place: RefObject<HTMLElement | null>): boolean {
  const [seen, setSeen] = useState(false);
  useEffect(() => {
    const element = place.current;
    if (seen || !element) return;
    const observer = new IntersectionObserver((entries) => entries.some((e) => e.isIntersecting) && setSeen(true), { rootMargin: NEAR });
    observer.observe(element);
    return () => observer.disconnect();
  }, [place, seen]);
  return seen;
}
