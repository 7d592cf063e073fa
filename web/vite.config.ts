import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react({ compiler: { logDiagnostics: true } })],
  build: { outDir: "../src/zesty_server/web_build", emptyOutDir: true, chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": "http://127.0.0.1:8765" } },
  test: { environment: "jsdom", setupFiles: ["src/setupTests.ts"], restoreMocks: true, testTimeout: 30_000 },
});
