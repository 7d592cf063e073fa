/** Geometry of the level path: columns side by side, levels from top to bottom. */

export const HEAD_LEFT = 84;
export const AXIS_RIGHT = 30;
export const LEAST_COLUMN = 96;
export const LOWEST_DB = -78;

export interface Geometry {
  columnWidth: number;
  width: number;
  centre: (column: number) => number;
  y: (db: number) => number;
}

/** Columns share the room; below the least width the picture grows and scrolls instead. */
export function geometry(room: number, columns: number, height: number): Geometry {
  const free = room - HEAD_LEFT - AXIS_RIGHT - 44;
  const columnWidth = Math.max(LEAST_COLUMN, free / columns);
  return {
    columnWidth,
    width: HEAD_LEFT + columnWidth * columns + 44 + AXIS_RIGHT,
    centre: (column) => HEAD_LEFT + columnWidth * (column + 0.5),
    y: (db) => 26 + (height - 50) * Math.min(1, Math.max(0, db / LOWEST_DB)),
  };
}

/** Flat runs of half a column, joined by cubics with level tangents. Gaps where a level is null. */
export function path(levels: (number | null)[], g: Geometry): string {
  const flat = g.columnWidth / 4;
  let d = "";
  let open = false;
  levels.forEach((level, i) => {
    if (level === null) {
      open = false;
      return;
    }
    const x = g.centre(i);
    const y = g.y(level);
    if (open) {
      const from = g.centre(i - 1) + flat;
      const middle = (from + x - flat) / 2;
      d += `C${middle} ${g.y(levels[i - 1] ?? level)} ${middle} ${y} ${x - flat} ${y}`;
    } else {
      d += `M${x - flat} ${y}`;
      open = true;
    }
    d += `L${x + flat} ${y}`;
  });
  return d;
}
