import { useTheme } from "@mui/material/styles";

import type { Levels, Step } from "../../api/types";
import { formatChange, formatDb, shownClearance, shownDifference } from "../../pictures/figures";
import { AXIS_RIGHT, HEAD_LEFT, path, type Geometry } from "./levelGeometry";

type Key = keyof Levels;
/** Where a figure stands to its mark. */
type Side = "above" | "below" | "beside";

interface Props {
  g: Geometry;
  height: number;
  steps: Step[];
  levels: (Levels | null)[];
  labelOf: (type: string) => string;
  /** What the target bounds of the levels shown. */
  limits: readonly Limit[];
}

/** A line that a level must stay on one side of. */
export interface Limit {
  name: string;
  db: number;
}

const ROW = 26;

/** True peak, voice level and noise floor as three joined lines; the ribbon is the clearance. */
export function LevelPicture({ g, height, steps, levels, labelOf, limits }: Props) {
  const { colours } = useTheme();
  const of = (key: Key) => levels.map((l) => l?.[key] ?? null);
  const [peak, voice, noise] = [of("true_peak_dbtp"), of("voice_level_dbfs"), of("noise_floor_dbfs")];
  const known = levels.filter((l) => l !== null).length;
  const right = g.centre(steps.length) + g.columnWidth / 2;
  const sentence = levels
    .map((l, i) => {
      const name = i === 0 ? "As recorded" : labelOf(steps[i - 1]?.type ?? "");
      return l
        ? `${name}: true peak ${formatDb(l.true_peak_dbtp)}, voice ${formatDb(l.voice_level_dbfs)}, noise ${formatDb(l.noise_floor_dbfs)}`
        : `${name}: not run yet`;
    })
    .concat(limits.map((limit) => `Target: ${limit.name} ${formatDb(limit.db)}`))
    .join(". ");

  const y = (values: (number | null)[], i: number) => {
    const value = values[i];
    return value === null || value === undefined ? null : g.y(value);
  };
  /** Whether a target's line runs through what is written at this height. */
  const crossed = (at: number) => limits.some((limit) => Math.abs(g.y(limit.db) - at) < 10);
  const halo = { stroke: colours.paper, strokeWidth: 5, strokeLinejoin: "round", paintOrder: "stroke" } as const;
  /** A figure is bold only if its step moved it; where the step is off it is left out. */
  const figure = (values: (number | null)[], i: number, at: Side) => {
    const value = values[i];
    if (value === null || value === undefined) return null;
    const before = i === 0 ? null : (values[i - 1] ?? null);
    const moved = before === null || Math.abs(shownDifference(before, value)) >= 0.1;
    if (i > 0 && steps[i - 1]?.enabled === false) return null;
    return (
      <text
        x={g.centre(i) + (at === "beside" ? 10 : 0)} y={g.y(value) + (at === "above" ? -10 : at === "below" ? 20 : 18)}
        textAnchor={at === "beside" ? "start" : "middle"}
        fontSize={13} fontWeight={moved ? 680 : 400} fill={moved ? colours.ink : colours.muted}
        {...(values === peak && crossed(g.y(value) - 14) ? halo : {})}
      >
        {formatDb(value)}
      </text>
    );
  };
  // Between lines that come close there is room only beside the marks.
  const voiceSide = (i: number): Side => {
    const [v, n, p] = [y(voice, i), y(noise, i), y(peak, i)];
    const below = v === null || n === null ? Infinity : n - v;
    const roomAbove = v !== null && (p === null || v - p > 30);
    if (below < 34 && roomAbove) return "above";
    return below < 28 ? "beside" : "below";
  };
  return (
    <svg
      width={g.width} height={height + ROW} role="img" aria-label={`Level path. ${sentence}`}
      style={{ position: "relative", display: "block", overflow: "visible", pointerEvents: "none" }}
    >
      <defs>
        <linearGradient id="voice-line" gradientUnits="userSpaceOnUse" x1={g.centre(0)} x2={right} y1={0} y2={0}>
          <stop offset={0} stopColor={colours.before} />
          <stop offset={1} stopColor={colours.after} />
        </linearGradient>
      </defs>
      {[0, -20, -40, -60].map((db) => (
        <g key={db}>
          <line x1={HEAD_LEFT} x2={right} y1={g.y(db)} y2={g.y(db)} stroke={colours.rule} strokeDasharray="1 5" />
          <text x={right + AXIS_RIGHT + 8} y={g.y(db) + 4} fontSize={12} fill={colours.muted} textAnchor="end">
            {formatDb(db).replace(".0", "")}
          </text>
        </g>
      ))}
      {limits.map((limit) => (
        <g key={limit.name}>
          <line x1={HEAD_LEFT} x2={right} y1={g.y(limit.db)} y2={g.y(limit.db)} stroke={colours.pass} strokeWidth={1.5} strokeDasharray="7 4" />
          <text x={g.centre(0) + g.columnWidth / 2} y={g.y(limit.db) - 4} fontSize={12} fill={colours.pass} textAnchor="middle">{limit.name} {formatDb(limit.db)}</text>
        </g>
      ))}
      <Ribbon g={g} voice={voice} noise={noise} />
      <path d={path(peak, g)} fill="none" stroke={colours.ink} strokeWidth={1.5} />
      <path d={path(voice, g)} fill="none" stroke="url(#voice-line)" strokeWidth={5} strokeLinecap="round" />
      <path d={path(noise, g)} fill="none" stroke={colours.room} strokeWidth={2.5} strokeDasharray="1 5" strokeLinecap="round" />
      {levels.map((l, i) => {
        const [p, v, n] = [y(peak, i), y(voice, i), y(noise, i)];
        const off = i > 0 && steps[i - 1]?.enabled === false;
        return (
          <g key={i}>
            {l && !off && p !== null && (
              <path d={`M${g.centre(i)} ${p - 5} l5 9 h-10 Z`} fill={colours.paper} stroke={colours.ink} strokeWidth={1.5} />
            )}
            {l && !off && v !== null && (
              <circle cx={g.centre(i)} cy={v} r={6} fill={colours.paper} stroke="url(#voice-line)" strokeWidth={3} />
            )}
            {l && !off && n !== null && (
              <rect x={g.centre(i) - 4.5} y={n - 4.5} width={9} height={9} rx={1.5} fill={colours.paper} stroke={colours.room} strokeWidth={2} />
            )}
            {figure(peak, i, "above")}
            {figure(voice, i, voiceSide(i))}
            {figure(noise, i, "below")}
          </g>
        );
      })}
      {known <= steps.length && known > 0 && (
        <text x={g.centre(known) - g.columnWidth / 4} y={g.y(-30)} fontSize={13} fill={colours.muted}>
          Run the chain to see the levels from here on.
        </text>
      )}
      <ClearanceRow g={g} top={height} steps={steps} levels={levels} right={right} />
    </svg>
  );
}

/** The room between voice and noise, as far as both are known without a gap. */
function Ribbon({ g, voice, noise }: { g: Geometry; voice: (number | null)[]; noise: (number | null)[] }) {
  const gap = voice.findIndex((v, i) => v === null || (noise[i] ?? null) === null);
  const count = gap < 0 ? voice.length : gap;
  if (count === 0) return null;
  const upper = path(voice.slice(0, count), g);
  const lower = path(noise.slice(0, count), g);
  const [left, right] = [g.centre(0) - g.columnWidth / 4, g.centre(count - 1) + g.columnWidth / 4];
  return (
    <>
      <clipPath id="under-voice">
        <path d={`${upper} L${right} 1000 L${left} 1000 Z`} />
      </clipPath>
      <path d={`${lower} L${right} -10 L${left} -10 Z`} fill="url(#voice-line)" opacity={0.12} clipPath="url(#under-voice)" />
    </>
  );
}

/** What the lines and the last row are, at the heights of the first column. */
export function LineNames({ g, height, first }: { g: Geometry; height: number; first: Levels | null }) {
  const { colours } = useTheme();
  const name = (text: string, db: number | null | undefined, colour: string) =>
    typeof db === "number" && (
      <text x={0} y={g.y(db) + 4} fontSize={12} fontWeight={600} fill={colour}>
        {text}
      </text>
    );
  return (
    <svg width={HEAD_LEFT} height={height + ROW} aria-hidden="true" style={{ display: "block", overflow: "visible" }}>
      {name("True peak", first?.true_peak_dbtp, colours.ink)}
      {name("Voice level", first?.voice_level_dbfs, colours.beforeText)}
      {name("Noise floor", first?.noise_floor_dbfs, colours.room)}
      <text x={6} y={height + 16} fontSize={12} fontWeight={600} fill={colours.ink}>
        Clearance
      </text>
    </svg>
  );
}

function ClearanceRow({ g, top, steps, levels, right }: { g: Geometry; top: number; steps: Step[]; levels: (Levels | null)[]; right: number }) {
  const { colours } = useTheme();
  return (
    <g>
      <rect x={0} y={top + 2} width={right} height={ROW - 6} rx={6} fill={colours.pith} opacity={0.6} />
      {levels.map((l, i) => {
        const value = shownClearance(l);
        if (value === null) return null;
        if (i > 0 && steps[i - 1]?.enabled === false) {
          return (
            <text key={i} x={g.centre(i)} y={top + 16} fontSize={12} textAnchor="middle" fill={colours.muted}>
              as before
            </text>
          );
        }
        const before = i === 0 ? null : shownClearance(levels[i - 1]);
        const change = before === null ? 0 : Math.round((value - before) * 10) / 10;
        const told = Math.abs(change) >= 1;
        return (
          <text key={i} x={g.centre(i)} y={top + 16} fontSize={13} textAnchor="middle" fill={told || i === 0 ? colours.ink : colours.muted} fontWeight={told || i === 0 ? 680 : 400}>
            {formatDb(value)}
            {told && (
              <tspan dx={5} fontWeight={500} fill={change > 0 ? colours.pass : colours.fail}>
                {formatChange(change)}
              </tspan>
            )}
          </text>
        );
      })}
    </g>
  );
}
