import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

// The build goes where the Go binary embeds it; in development the API is the
// server that `make dev` runs beside.
export default defineConfig({
  plugins: [react()],
  build: {
    outDir: "../internal/web/dist",
    emptyOutDir: true,
    chunkSizeWarningLimit: 1600,
    rolldownOptions: { input: ["index.html", "api-docs.html"] },
  },
  server: { port: 5173, proxy: { "/api": "http://127.0.0.1:8640" } },
  test: {
    environment: "jsdom",
    testTimeout: 60_000, // on a slow machine a screen of many parts takes seconds
    // The parts' library takes seconds to load: each worker does so once.
    isolate: false,
    maxWorkers: 2,
    setupFiles: ["src/parts/testsetup.ts"],
  },
});
