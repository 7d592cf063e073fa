/** The order in which a batch numbers its files. */

import type { Recording } from "../../api/types";

/** Recordings in a given order of ids; those it does not name follow as they are. */
export function arranged(recordings: readonly Recording[], ids: readonly string[]): Recording[] {
  const place = new Map(ids.map((id, at) => [id, at]));
  const at = (r: Recording) => place.get(r.id) ?? ids.length;
  return [...recordings].sort((a, b) => at(a) - at(b));
}

/** The order with one id put where another one stands. */
export function moved(ids: readonly string[], id: string, to: number): string[] {
  const rest = ids.filter((other) => other !== id);
  const place = Math.min(rest.length, Math.max(0, to));
  return [...rest.slice(0, place), id, ...rest.slice(place)];
}

export type ArrangeBy = "name" | "came";

/** Ids by name, 2 before 10, or by when the recordings came in. */
export function sortedIds(recordings: readonly Recording[], by: ArrangeBy): string[] {
  const compare = {
    name: (a: Recording, b: Recording) => a.name.localeCompare(b.name, undefined, { numeric: true }),
    came: (a: Recording, b: Recording) => a.created_at.localeCompare(b.created_at),
  }[by];
  return [...recordings].sort(compare).map((r) => r.id);
}
