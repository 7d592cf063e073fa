/** Whether two chains are the same. */

import type { Step } from "../api/types";

/** Whether two chains are the same in every setting. */
export function sameSteps(a: readonly Step[], b: readonly Step[]): boolean {
  return JSON.stringify(canonical(a)) === JSON.stringify(canonical(b));
}

/** JSON with its keys in order: two servers' answers about the same chain compare equal. */
function canonical(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(canonical);
  if (typeof value !== "object" || value === null) return value;
  const entries = Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1));
  return Object.fromEntries(entries.map(([k, v]) => [k, canonical(v)]));
}
