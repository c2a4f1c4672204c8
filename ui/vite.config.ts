import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import type { Plugin } from "vite";
import { VitePWA } from "vite-plugin-pwa";
import { defineConfig } from "vitest/config";

/** The pages wait for the reader's catalogue, which English has none of: what they are made of is asked for with the first page all the same. */
const pagesAhead: Plugin = {
  name: "pages-ahead",
  transformIndexHtml: {
    order: "post",
    handler: (html, { bundle }) => {
      const start = Object.values(bundle ?? {}).find((c) => c.type === "chunk" && c.name === "start");
      if (start?.type !== "chunk") return [];
      return [start.fileName, ...start.imports]
        .filter((file) => !html.includes(file))
        .map((file) => ({ tag: "link", attrs: { rel: "modulepreload", crossorigin: true, href: `/${file}` } }));
    },
  },
};

export default defineConfig({
  plugins: [
    react(),
    pagesAhead,
    tailwindcss(),
    VitePWA({
      registerType: "autoUpdate",
      injectRegister: "script-defer",
      manifest: {
        name: "Vereda",
        short_name: "Vereda",
        description: "The class on the mat",
        start_url: "/run",
        display: "standalone",
        background_color: "#f6f3ec",
        theme_color: "#f6f3ec",
        icons: [{ src: "/mark.svg", sizes: "any", type: "image/svg+xml", purpose: "any" }],
      },
      workbox: {
        // The worker takes the pages that are open already: who opens a class at once keeps it on the device as well.
        clientsClaim: true,
        skipWaiting: true,
        // What is open past the worker asks for it (areas/run/Run.tsx, useKept).
        importScripts: ["worker-claim.js"],
        globIgnores: ["**/worker-claim.js"],
        globPatterns: ["**/*.{js,css,html,svg,woff2}"],
        navigateFallback: "/index.html",
        navigateFallbackDenylist: [/^\/api\//, /^\/calendar\//, /^\/metrics/, /^\/healthz/, /^\/readyz/],
        runtimeCaching: [
          {
            // What a coach reads on the mat is kept on the device, so that it is there without network; signing out empties it. The
            // function is written into the worker as it stands: it can use nothing from outside of it.
            urlPattern: ({ url, request, sameOrigin }) =>
              sameOrigin &&
              request.method === "GET" &&
              /^\/api\/(session|week|library\/words|classes\/[^/]+(\/(clock|checks))?|checks\/sheet)$/.test(url.pathname),
            handler: "NetworkFirst",
            options: {
              cacheName: "mat",
              networkTimeoutSeconds: 4,
              expiration: { maxEntries: 300, maxAgeSeconds: 8 * 24 * 3600 },
              cacheableResponse: { statuses: [200] },
              // Without network what was kept in another language is better than nothing.
              matchOptions: { ignoreVary: true },
            },
          },
        ],
      },
    }),
  ],
  build: { outDir: "dist", emptyOutDir: true, assetsInlineLimit: 0, modulePreload: { polyfill: false } },
  test: { environment: "jsdom", include: ["src/**/*.test.{ts,tsx}"], testTimeout: 20_000 },
  // In development Vite serves the interface and passes the rest on to the program.
  server: { port: 5173, proxy: { "/api": { target: process.env.VEREDA_DEV_SERVER ?? "http://127.0.0.1:8080" } } },
});
