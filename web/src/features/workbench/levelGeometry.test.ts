import { describe, expect, test } from "vitest";

import { geometry, LEAST_COLUMN, path } from "./levelGeometry";

describe("level path", () => {
  test("columns share the room until they would be too narrow", () => {
    expect(geometry(1104, 7, 166).columnWidth).toBeGreaterThan(LEAST_COLUMN);
    const many = geometry(1104, 14, 166);
    expect(many.columnWidth).toBe(LEAST_COLUMN);
    expect(many.width).toBeGreaterThan(1104);
  });

  test("louder is higher, and what is too quiet stays in the picture", () => {
    const g = geometry(1104, 7, 166);
    expect(g.y(-10)).toBeLessThan(g.y(-40));
    expect(g.y(-200)).toBe(g.y(-84));
  });

  test("a line breaks where a level is not known", () => {
    const g = geometry(1104, 4, 166);
    expect(path([-10, -20, null, -30], g).match(/M/g)).toHaveLength(2);
    expect(path([null, null], g)).toBe("");
  });
});
