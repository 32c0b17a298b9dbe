import { defineConfig } from "vite";

// The script that the preview adds to the author's pages: one file, no module, so that it runs before their own scripts.
export default defineConfig({
  publicDir: false,
  build: {
    target: "es2023",
    emptyOutDir: false,
    lib: { entry: "src/live/live.ts", formats: ["iife"], name: "arvel", fileName: () => "live.js" },
  },
});
