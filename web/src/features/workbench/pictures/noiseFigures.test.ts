import { expect, test } from "vitest";

import { figureBaseline } from "./NoisePicture";

test.each(Array.from({ length: 41 }, (_, depthDb) => depthDb))("at a depth of %d dB the line strikes no figure through", (depthDb) => {
  const depth = (db: number) => 20 + 4.5 * db;
  for (const db of [0, 20, 40]) {
    const baseline = figureBaseline(depth(db), db === 40, depth(depthDb));
    // A figure is 9 high over its baseline; the line is 2 thick.
    expect(depth(depthDb) < baseline - 10 || depth(depthDb) > baseline + 1).toBe(true);
  }
});
