import { readFileSync } from "node:fs";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { VitePWA } from "vite-plugin-pwa";

const core = readFileSync(new URL("public/core/manifest.json", import.meta.url), "utf-8");

export default defineConfig({
  base: "/static/",
  define: { CORE: core },
  plugins: [
    react(),
    {
      name: "core-kept",
      generateBundle() {
        const kept = Object.keys((JSON.parse(core) as { files: object }).files).map((file) => `/static/core/${file}`);
        const source = readFileSync(new URL("src/core/kept.js", import.meta.url), "utf-8").replace(
          "KEPT",
          JSON.stringify(kept),
        );
        this.emitFile({ type: "asset", fileName: "core-kept.js", source });
      },
    },
    VitePWA({
      // The page registers it by itself, under the address that it is served at.
      injectRegister: false,
      registerType: "prompt",
      filename: "sw.js",
      manifest: false,
      workbox: {
        inlineWorkboxRuntime: true,
        importScripts: ["/static/core-kept.js"],
        clientsClaim: true,
        globPatterns: ["**/*.{js,css,html,svg,woff2,png,webmanifest}"],
        // The reader of codes is for browsers that have none.
        globIgnores: ["core/**", "**/manifest.json", "assets/reader-*.js", "core-kept.js"],
        dontCacheBustURLsMatching: /^\/static\/assets\//,
        maximumFileSizeToCacheInBytes: 4_000_000,
        navigateFallback: null,
        modifyURLPrefix: { "": "/static/" },
        runtimeCaching: [
          {
            // The page as the server gives it; where that is out of reach or slow, the one that ships with the scripts.
            urlPattern: ({ request, url }) => request.mode === "navigate" && !url.pathname.startsWith("/api/"),
            handler: async ({ request }) => {
              const own = () => caches.match("/static/index.html", { ignoreSearch: true });
              const late = new Promise<undefined>((done) => setTimeout(() => done(undefined), 3_000));
              const asked = fetch(request);
              const first = await Promise.race([asked.catch(() => undefined), late]);
              return first ?? (await own()) ?? asked;
            },
          },
          {
            urlPattern: ({ url }) => url.pathname.startsWith("/static/assets/reader-"),
            handler: "CacheFirst",
            options: { cacheName: "codes", expiration: { maxEntries: 2 } },
          },
          {
            urlPattern: ({ url }) => url.pathname.startsWith("/static/core/"),
            handler: "CacheFirst",
            options: { cacheName: "core" },
          },
        ],
      },
    }),
  ],
  worker: { format: "es" },
  css: {
    preprocessorOptions: {
      scss: { quietDeps: true, silenceDeprecations: ["import"], loadPaths: ["node_modules"] },
    },
  },
  build: { target: "es2022", manifest: "manifest.json", assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
});
