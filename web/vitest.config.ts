import { configDefaults, defineConfig, mergeConfig } from "vitest/config";

import viteConfig from "./vite.config";

/** Tests that put other modules in place of ours; what they put there must not reach the others. */
const WITH_STAND_INS = ["beds/BedPage", "batches/compose", "compare/ComparePage", "compare/tasting", "live/useLive", "workbench/WorkbenchPage"].map(
  (name) => `src/features/${name}.test.tsx`,
);

export default mergeConfig(viteConfig, defineConfig({
  test: {
    environment: "jsdom", setupFiles: ["src/setupTests.ts"], restoreMocks: true, testTimeout: 30_000,
    projects: [
      { extends: true, test: { name: "alone", include: WITH_STAND_INS } },
      // One page for many files: making it takes longer than most of the tests.
      { extends: true, test: { name: "together", isolate: false, exclude: [...configDefaults.exclude, ...WITH_STAND_INS] } },
    ],
  },
}));
