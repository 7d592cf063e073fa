/** Short words about steps: what stands in a column's head, and what a run reports. */

import type { Point, Step } from "../../api/types";
import { formatChange, formatDb, formatNumber } from "../../pictures/figures";
import { viewOf } from "./steps";
import { figure } from "./steps/view";

/** The setting that says most, for the column's head. */
export function gist(step: Step): string {
  return step.enabled ? (viewOf(step.type).gist?.(step.params) ?? "") : "off";
}

/** What a step did, in a few words for its column; null where that is not known. */
export function didHere(step: Step, report: Record<string, unknown> | undefined): string | null {
  if (!step.enabled || !report) return null;
  const { did = usualWork } = viewOf(step.type);
  return did(report);
}

function usualWork(report: Record<string, unknown>): string | null {
  const [typical, most, gain] = [figure(report, "typical_reduction_db"), figure(report, "max_reduction_db"), figure(report, "gain_db")];
  if (typical !== null && most !== null) return `${formatChange(-typical)} to ${formatChange(-most)} dB`;
  return gain === null ? null : `${formatChange(gain)} dB`;
}

export interface Told {
  label: string;
  value: string;
  unit: string;
}

const percent = (v: number) => String(Math.round(100 * v));

const REPORTED: [key: string, label: string, unit: string, shown: (v: number) => string][] = [
  ["gain_db", "Gain", "dB", formatDb],
  ["typical_reduction_db", "Typical reduction", "dB", formatDb],
  ["max_reduction_db", "Max reduction", "dB", formatDb],
  ["phrases", "Phrases", "", (v) => String(v)],
  ["spread_before_db", "Spread before", "dB", formatDb],
  ["spread_after_db", "Spread after", "dB", formatDb],
  ["max_lift_db", "Softest phrase, up", "dB", formatDb],
  ["makeup_db", "Make-up", "dB", formatDb],
  ["threshold_dbfs", "Threshold here", "dBFS", formatDb],
  ["active_share", "Active", "%", percent],
  ["missed_by_db", "Missing to the target", "dB", formatDb],
  ["openings", "Times opened", "", (v) => String(v)],
  ["below_voice_db", "Room under the voice", "dB", formatDb],
  ["room_tone_change_db", "Room tone", "dB", formatDb],
  ["energy_change_db", "Level change", "dB", formatDb],
];

/** A figure that a step's own view names: its unit is in its key. */
function ownFigure(key: string, label: string): (typeof REPORTED)[number] {
  if (key.endsWith("_share")) return [key, label, "%", percent];
  const unit = key.endsWith("_dbfs") ? "dBFS" : key.endsWith("_db") ? "dB" : key.endsWith("_hz") ? "Hz" : "";
  return [key, label, unit, unit.startsWith("dB") ? formatDb : (v) => formatNumber(v)];
}

/** What a run says a step did, in rows for people. */
export function told(type: string, report: Point["report"] | undefined): Told[] {
  if (!report) return [];
  const { labels = {} } = viewOf(type);
  const own = Object.entries(labels).filter(([key]) => !REPORTED.some(([usual]) => usual === key));
  return [...REPORTED, ...own.map(([key, label]) => ownFigure(key, label))].flatMap(([key, usual, unit, shown]) => {
    const value = report[key];
    const label = labels[key] ?? usual;
    const sides = key === "gain_db" ? report.gains_db : null;
    if (Array.isArray(sides) && sides.length === 2 && Math.abs(Number(sides[0]) - Number(sides[1])) >= 0.05) {
      return ["left", "right"].map((side, i) => ({ label: `${label}, ${side}`, unit, value: shown(Number(sides[i])) }));
    }
    return typeof value === "number" ? [{ label, unit, value: shown(value) }] : [];
  });
}

/** A step's remark in words, if it has one. */
export function remark(point: Pick<Point, "report"> | undefined): string | null {
  const note = point?.report.note;
  return typeof note === "string" ? note : null;
}
