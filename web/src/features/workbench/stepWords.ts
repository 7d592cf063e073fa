/** Short words about steps: what stands in a column's head, and what a run reports. */

import type { Point, Step } from "../../api/types";
import { formatChange, formatDb, formatNumber } from "../../pictures/figures";

const num = (value: unknown) => formatNumber(typeof value === "number" ? value : 0);

/** The setting that says most, for the column's head. */
export function gist(step: Step): string {
  const p = step.params;
  if (!step.enabled) return "off";
  switch (step.type) {
    case "normalize":
      return `peak ${num(p.target_db)} dB`;
    case "noise_reduction":
      return `${num(p.depth_db)} dB deep`;
    case "gate":
      return p.mode === "gate" ? `${num(p.floor_db)} dB` : `${num(p.ratio)} : 1, ${num(p.floor_db)} dB`;
    case "de_esser":
      return `${num(p.max_reduction_db)} dB at most`;
    case "multiband": {
      const count = Array.isArray(p.bands) ? p.bands.length : 0;
      return `${count} bands`;
    }
    case "saturation":
      return `drive ${num(p.drive_db)} dB`;
    case "ambience":
      return `${num(typeof p.mix === "number" ? 100 * p.mix : 0)} % room`;
    case "eq": {
      const count = Array.isArray(p.bands) ? p.bands.length : 0;
      return `${count} band${count === 1 ? "" : "s"}`;
    }
    case "compressor":
      return `${num(p.ratio)} : 1`;
    case "limiter":
      return `${num(p.ceiling_dbtp)} dBTP`;
    case "loudness":
      return `${num(p.target)} ${p.measure === "voice" ? "voice" : p.measure === "rms" ? "RMS" : "LUFS"}`;
    case "gain":
      return `${num(p.gain_db)} dB`;
    default:
      return "";
  }
}

/** What a step did, in a few words for its column; null where that is not known. */
export function didHere(step: Step, report: Record<string, unknown> | undefined): string | null {
  if (!step.enabled || !report) return null;
  const figure = (key: string) => (typeof report[key] === "number" ? report[key] : null);
  const [typical, most] = [figure("typical_reduction_db"), figure("max_reduction_db")];
  const gain = figure("gain_db");
  const room = figure("room_tone_change_db");
  if (step.type === "noise_reduction") return room === null ? null : `room ${formatChange(room)} dB`;
  if (step.type === "limiter") return most === null ? null : most < 0.05 ? "not needed" : `${formatChange(-most)} dB at most`;
  if (typical !== null && most !== null) return `${formatChange(-typical)} to ${formatChange(-most)} dB`;
  if (gain !== null && step.type !== "gain") return `${formatChange(gain)} dB`;
  return null;
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
  ["makeup_db", "Make-up", "dB", formatDb],
  ["threshold_dbfs", "Threshold here", "dBFS", formatDb],
  ["active_share", "Active", "%", percent],
  ["missed_by_db", "Missing to the target", "dB", formatDb],
  ["openings", "Times opened", "", (v) => String(v)],
  ["below_voice_db", "Room under the voice", "dB", formatDb],
  ["room_tone_change_db", "Room tone", "dB", formatDb],
  ["energy_change_db", "Level change", "dB", formatDb],
];

/** What a figure means at a step where it is something of its own. */
const OWN_LABELS: Record<string, Record<string, string>> = {
  // A gate turns down what lies between the words; the words pass.
  gate: { typical_reduction_db: "Gap reduction", max_reduction_db: "Max gap reduction", active_share: "Closed" },
  de_esser: { typical_reduction_db: "Typical reduction of the band", max_reduction_db: "Max reduction of the band" },
  multiband: { typical_reduction_db: "Typical, busiest band", max_reduction_db: "Max, busiest band", active_share: "Active, busiest band" },
  saturation: { max_reduction_db: "Highest peak rounded by" },
};

/** What a run says a step did, in rows for people. */
export function told(type: string, report: Point["report"] | undefined): Told[] {
  if (!report) return [];
  return REPORTED.flatMap(([key, usual, unit, shown]) => {
    const value = report[key];
    const label = OWN_LABELS[type]?.[key] ?? usual;
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
