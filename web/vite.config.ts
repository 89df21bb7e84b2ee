import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react()],
  build: { chunkSizeWarningLimit: 900 },
  // `npm run dev` beside `fresh-meadow serve`: the server's own origin is what it checks.
  server: {
    proxy: {
      "/api": { target: "http://127.0.0.1:8080", changeOrigin: true, headers: { origin: "http://127.0.0.1:8080" } },
    },
  },
});
