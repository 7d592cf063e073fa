import react from "@vitejs/plugin-react";
import { configDefaults, defineConfig } from "vitest/config";

/** Tests that put other modules in place of ours; what they put there must not reach the others. */
const WITH_STAND_INS = ["beds/BedPage", "batches/compose", "compare/ComparePage", "compare/tasting", "live/useLive", "workbench/WorkbenchPage"].map(
  (name) => `src/features/${name}.test.tsx`,
);

export default defineConfig({
  plugins: [react({ compiler: { logDiagnostics: true } })],
  build: { outDir: "../src/zesty_server/web_build", emptyOutDir: true, chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": "http://127.0.0.1:8765" } },
  test: {
    environment: "jsdom", setupFiles: ["src/setupTests.ts"], restoreMocks: true, testTimeout: 30_000,
    projects: [
      { extends: true, test: { name: "alone", include: WITH_STAND_INS } },
      // One page for many files: making it takes longer than most of the tests.
      { extends: true, test: { name: "together", isolate: false, exclude: [...configDefaults.exclude, ...WITH_STAND_INS] } },
    ],
  },
});
