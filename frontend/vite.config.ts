import { createHash } from "node:crypto";
import { readFileSync } from "node:fs";

import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { VitePWA } from "vite-plugin-pwa";

// Answers that were kept on a device are read back as long as they are described in the same way.
const described = createHash("sha256").update(readFileSync("src/api/openapi.json")).digest("hex").slice(0, 12);

export default defineConfig({
  define: { __BUILD__: JSON.stringify(described) },
  plugins: [
    react(),
    tailwindcss(),
    VitePWA({
      registerType: "prompt",
      injectRegister: "script-defer",
      manifest: {
        name: "Eager Ear",
        short_name: "Eager Ear",
        description: "Hears a washer's spin test and names the part that fails.",
        start_url: "/",
        display: "standalone",
        background_color: "#edf2ef",
        theme_color: "#12343b",
        icons: [{ src: "/mark.svg", sizes: "any", type: "image/svg+xml", purpose: "any" }],
      },
      workbox: {
        globPatterns: ["**/*.{js,css,html,woff2,svg}"],
        navigateFallback: "/index.html",
        navigateFallbackDenylist: [/^\/api\//],
        cleanupOutdatedCaches: true,
      },
    }),
  ],
  build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": "http://127.0.0.1:8321" } },
});
