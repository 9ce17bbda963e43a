import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { VitePWA } from "vite-plugin-pwa";

/** The letters are asked for with the page, not behind its style sheet: what is written before they are there would move. */
const lettersFirst = {
  name: "letters-first",
  transformIndexHtml: {
    order: "post" as const,
    handler: (_html: string, { bundle }: { bundle?: Record<string, unknown> }) =>
      Object.keys(bundle ?? {})
        .filter((name) => /next-latin-wght-normal|mono-latin-(500|700)-normal/.test(name) && name.endsWith(".woff2"))
        .map((name) => ({
          tag: "link",
          attrs: { rel: "preload", href: `/${name}`, as: "font", type: "font/woff2", crossorigin: "" },
          injectTo: "head" as const,
        })),
  },
};

export default defineConfig({
  build: { outDir: "../internal/server/webdist", emptyOutDir: true, target: "es2022", chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": "http://127.0.0.1:7315" } },
  plugins: [
    react(),
    lettersFirst,
    VitePWA({
      registerType: "autoUpdate",
      injectRegister: "script-defer",
      manifest: {
        name: "Itinerant Reed",
        short_name: "Reed",
        description: "A field notebook for portable antennas that computes.",
        theme_color: "#F6F2E7",
        background_color: "#F6F2E7",
        display: "standalone",
        icons: [{ src: "/reed.svg", sizes: "any", type: "image/svg+xml" }],
      },
      workbox: {
        globPatterns: ["**/*.{js,css,html,svg}", "assets/*latin-wght*.woff2", "assets/*mono-latin-*.woff2"],
        navigateFallback: "/index.html",
        navigateFallbackDenylist: [/^\/api\//, /^\/notebook-root/],
        // What was read last stays readable when the link drops; the server's word comes first.
        runtimeCaching: [
          {
            // The stream of live changes never ends, and what is downloaded as a file is not read again.
            urlPattern: ({ url }) => url.pathname.startsWith("/api/") && url.pathname !== "/api/events" && !url.pathname.endsWith(".zip"),
            handler: "NetworkFirst",
            method: "GET",
            options: { cacheName: "read-last", networkTimeoutSeconds: 4, expiration: { maxEntries: 300 } },
          },
        ],
      },
    }),
  ],
});
