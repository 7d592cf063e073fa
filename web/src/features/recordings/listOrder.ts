/** Which recordings the list shows, and in what order. */

import type { Recording } from "../../api/types";

export type SortKey = "name" | "came" | "peak" | "voice" | "noise" | "clearance" | "advice";

export interface Order {
  key: SortKey;
  /** Largest, newest or last in the alphabet first. */
  down: boolean;
}

export const NEWEST: Order = { key: "came", down: true };

const figure: Record<Exclude<SortKey, "name" | "came">, (r: Recording) => number | null | undefined> = {
  peak: (r) => r.measures?.true_peak_dbtp,
  voice: (r) => r.measures?.voice_level_dbfs,
  noise: (r) => r.measures?.noise_floor_dbfs,
  clearance: (r) => r.measures?.clearance_db,
  advice: (r) => r.advice.length,
};

function compare(a: Recording, b: Recording, key: SortKey): number {
  if (key === "name") return a.name.localeCompare(b.name, undefined, { numeric: true });
  if (key === "came") return a.created_at.localeCompare(b.created_at);
  return (figure[key](a) ?? 0) - (figure[key](b) ?? 0);
}

/** What cannot be determined comes last, whichever way the list runs. */
const isUnknown = (r: Recording, key: SortKey) => key !== "name" && key !== "came" && figure[key](r) == null;

/** The next order when a column's head is pressed: its usual way first, then the other. */
export function pressed(order: Order, key: SortKey): Order {
  const usual = key !== "name";
  return order.key === key ? { key, down: !order.down } : { key, down: usual };
}

export interface Filter {
  words: string;
  /** A group's name, or what to look for over all groups. */
  only: string;
}

export const EVERYTHING: Filter = { words: "", only: "all" };

/** Choices of the filter beside the groups: value and words. */
export const KINDS = [
  ["all", "All recordings"],
  ["advice", "With findings"],
  ["unrun", "Not run yet"],
] as const;

const groupValue = (group: string) => `group:${group}`;

/** Groups there are, as choices of the filter. */
export function groupChoices(all: Recording[]): [string, string][] {
  const names = [...new Set(all.map((r) => r.group ?? "").filter((name) => name !== ""))].sort();
  return names.map((name) => [groupValue(name), name]);
}

/** Recordings that pass the filter, in order. */
export function listed(all: Recording[], filter: Filter, order: Order): Recording[] {
  const words = filter.words.trim().toLowerCase().split(/\s+/).filter((word) => word !== "");
  const passes = (r: Recording) => {
    const text = `${r.name} ${r.label ?? ""} ${r.group ?? ""} ${r.notes ?? ""} ${r.take == null ? "" : `take ${r.take}`}`.toLowerCase();
    if (!words.every((word) => text.includes(word))) return false;
    if (filter.only === "advice") return r.advice.length > 0;
    if (filter.only === "unrun") return r.latest_run === null;
    return filter.only === "all" || filter.only === groupValue(r.group ?? "");
  };
  const turn = order.down ? -1 : 1;
  return all.filter(passes).sort((a, b) => {
    const unknown = Number(isUnknown(a, order.key)) - Number(isUnknown(b, order.key));
    return unknown || turn * compare(a, b, order.key);
  });
}

/** The chosen ones in the order of the list; those that the filter hides come last. */
export function chosenInOrder(all: Recording[], shown: Recording[], chosen: ReadonlySet<string>): Recording[] {
  const seen = new Set(shown.map((r) => r.id));
  return [...shown, ...all.filter((r) => !seen.has(r.id))].filter((r) => chosen.has(r.id));
}

/** Change of what is chosen: one recording in or out. */
export const withChosen = (id: string, on: boolean) => (chosen: ReadonlySet<string>): ReadonlySet<string> => {
  const next = new Set(chosen);
  if (on) next.add(id);
  else next.delete(id);
  return next;
};
