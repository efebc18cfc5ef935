import { fileURLToPath } from "node:url";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { withoutUnusedStyles } from "./unused-styles.ts";

const source = fileURLToPath(new URL("./src", import.meta.url));

export default defineConfig({
  plugins: [react()],
  resolve: { alias: { "@": source } },
  css: { postcss: { plugins: [withoutUnusedStyles(source)] } },
  build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 2000 },
  server: { proxy: { "/api": "http://127.0.0.1:8127" } },
});
