import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

// In development the interface is served by Vite and the API by Arvel on its usual port. Open the address that Arvel prints
// once: the browser then has the key, which counts on every port of localhost.
export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: {
    target: "es2023",
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 900,
  },
  server: {
    port: 5173,
    proxy: {
      "/api": { target: "http://localhost:4178", changeOrigin: true, headers: { origin: "http://localhost:4178" } },
    },
  },
});
