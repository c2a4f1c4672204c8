import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { outDir: "dist", emptyOutDir: true, assetsInlineLimit: 0, modulePreload: { polyfill: false } },
  test: { environment: "jsdom", include: ["src/**/*.test.{ts,tsx}"] },
  // In development Vite serves the interface and passes the rest on to the program.
  server: { port: 5173, proxy: { "/api": { target: process.env.VEREDA_DEV_SERVER ?? "http://127.0.0.1:8080" } } },
});
