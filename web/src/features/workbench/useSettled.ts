import { useEffect, useState } from "react";

/** A value once it has not changed for a while. */
export function useSettled<T>(value: T, waitMs: number): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), waitMs);
    return () => clearTimeout(timer);
  }, [value, waitMs]);
  return settled;
}
