import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  base: "/static/",
  plugins: [react()],
  css: {
    preprocessorOptions: {
      scss: { quietDeps: true, silenceDeprecations: ["import"], loadPaths: ["node_modules"] },
    },
  },
  build: { target: "es2022", manifest: "manifest.json", assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
});
