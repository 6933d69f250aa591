import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    environment: "jsdom",
    include: ["src/**/*.test.{ts,tsx}"],
    // What is tested is what happens, not how fast: kernels compile beside it.
    testTimeout: 120_000,
  },
  plugins: [react(), tailwindcss()],
  build: { outDir: "dist", chunkSizeWarningLimit: 900 },
  server: {
    // The guide is the one that lies with the application.
    fs: { allow: [".", "../docs"] },
    proxy: { "/api": { target: "http://127.0.0.1:8620", ws: true } },
  },
});
