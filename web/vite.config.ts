import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

// In development the interface is served by Vite and the API by "arvel serve" on its usual port.
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
      "/api": { target: "http://127.0.0.1:4178", changeOrigin: true, headers: { origin: "http://127.0.0.1:4178" } },
    },
  },
});
