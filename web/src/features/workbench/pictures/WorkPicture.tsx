import { useTheme } from "@mui/material/styles";

import type { Playback } from "../../../audio/playback";
import { useTimeS } from "../../../audio/usePlayer";
import { formatDb } from "../../../pictures/figures";

interface Props {
  /** Change of level over the passage, in dB; null where it was too quiet to tell. */
  work: readonly (number | null)[];
  width: number;
  height: number;
  name: string;
  at: LoopPlace | null;
}

/** Tells where the loop is in the passage, 0 to 1. */
export interface LoopPlace {
  loop: Playback;
  share: (timeS: number) => number;
}

const AXIS = 34;

/** How far a step turns down (or up) over the passage. */
export function WorkPicture({ work, width, height, name, at }: Props) {
  const { colours } = useTheme();
  const told = work.filter((w): w is number => w !== null);
  const most = Math.max(5, Math.ceil(Math.max(...told.map((w) => -w), 0) / 5) * 5);
  const up = Math.max(0, ...told);
  const top = up > 0.5 ? Math.ceil(up / 5) * 5 : 0;
  const right = width - AXIS;
  const y = (db: number) => 2 + ((top - db) / (top + most)) * (height - 6);
  const x = (i: number) => (i / Math.max(1, work.length - 1)) * right;
  const points = work.map((w, i) => `${x(i).toFixed(1)} ${y(w ?? 0).toFixed(1)}`);
  const words = told.length > 0 ? `${name}: from ${formatDb(Math.min(...told))} to ${formatDb(Math.max(...told))} dB over the passage` : `${name}: nothing to tell`;
  return (
    <svg width={width} height={height} role="img" aria-label={words} style={{ display: "block" }}>
      <line x1={0} x2={right} y1={y(0)} y2={y(0)} stroke={colours.muted} />
      <path d={`M0 ${y(0)}L${points.join("L")}L${right} ${y(0)}Z`} fill={colours.after} opacity={0.16} />
      <path d={`M${points.join("L")}`} fill="none" stroke={colours.after} strokeWidth={1.3} />
      {[top, -most].filter((db) => db !== 0).map((db) => (
        <text key={db} x={width} y={db > 0 ? 12 : height - 4} fontSize={12} fill={colours.muted} textAnchor="end">{formatDb(db).replace(".0", "")}</text>
      ))}
      {at && <Place at={at} width={right} height={height} />}
    </svg>
  );
}

function Place({ at, width, height }: { at: LoopPlace; width: number; height: number }) {
  const { colours } = useTheme();
  const x = at.share(useTimeS(at.loop)) * width;
  return <line x1={x} x2={x} y1={0} y2={height} stroke={colours.ink} strokeWidth={1.5} />;
}

/** When a gate is open, as a strip over the passage. */
export function OpenStrip({ work, floorDb, width }: { work: readonly (number | null)[]; floorDb: number; width: number }) {
  const { colours } = useTheme();
  const open = work.map((w) => w !== null && w > floorDb / 2);
  const share = open.filter(Boolean).length / Math.max(1, open.length);
  const step = width / Math.max(1, open.length);
  return (
    <svg width={width} height={12} role="img" aria-label={`Open ${Math.round(100 * share)} % of the passage`} style={{ display: "block" }}>
      <rect width={width} height={12} rx={4} fill={colours.pith} />
      {open.map((is, i) => is && <rect key={i} x={i * step} width={step + 0.5} height={12} fill={colours.after} opacity={0.75} />)}
    </svg>
  );
}
