import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { outDir: "dist", emptyOutDir: true, chunkSizeWarningLimit: 700 },
  // A component that waits for a condition may do so on a busy machine, as the journeys do.
  test: { environment: "node", pool: "threads", isolate: false, testTimeout: 30_000 },
  server: { proxy: { "/api": "http://127.0.0.1:8080" } },
});
