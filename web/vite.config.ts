import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { chunkSizeWarningLimit: 2000, emptyOutDir: true },
  server: {
    port: 7311,
    proxy: { "/api": { target: "http://127.0.0.1:7310", ws: true } },
  },
});
