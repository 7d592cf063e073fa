import { useTheme } from "@mui/material/styles";
import type { ReactNode } from "react";

import type { Scale } from "./scales";

export interface Margins {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

export const MARGINS: Margins = { left: 34, right: 8, top: 8, bottom: 20 };

interface Props {
  width: number;
  height: number;
  x: Scale;
  y: Scale;
  xTicks: readonly { at: number; text: string }[];
  yTicks: readonly { at: number; text: string }[];
  /** What the picture says, for those who do not see it. */
  words: string;
  /** Holds things to operate, rather than being one image. */
  live?: boolean;
  margins?: Margins;
  children: ReactNode;
}

/** Axes and grid of a picture of a step. */
export function Plot({ width, height, x, y, xTicks, yTicks, words, live = false, margins = MARGINS, children }: Props) {
  const { colours } = useTheme();
  const [right, bottom] = [width - margins.right, height - margins.bottom];
  return (
    <svg width={width} height={height} role={live ? "group" : "img"} aria-label={words} style={{ display: "block", touchAction: "none", overflow: "visible" }}>
      {yTicks.map(({ at, text }) => (
        <g key={`y${at}`}>
          <line x1={margins.left} x2={right} y1={y(at)} y2={y(at)} stroke={colours.rule} />
          <text x={margins.left - 6} y={y(at) + 4} fontSize={12} fill={colours.muted} textAnchor="end">{text}</text>
        </g>
      ))}
      {xTicks.map(({ at, text }) => (
        <g key={`x${at}`}>
          <line x1={x(at)} x2={x(at)} y1={margins.top} y2={bottom} stroke={colours.rule} />
          <text x={x(at)} y={height - 5} fontSize={12} fill={colours.muted} textAnchor="middle">{text}</text>
        </g>
      ))}
      {children}
    </svg>
  );
}
