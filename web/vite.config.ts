import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react({ compiler: { logDiagnostics: true } })],
  build: { outDir: "../src/zesty_server/web_build", emptyOutDir: true },
  server: { proxy: { "/api": "http://127.0.0.1:8765" } },
});
