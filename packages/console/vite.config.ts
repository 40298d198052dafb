import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

const service = process.env.YH_URL ?? "http://127.0.0.1:7420";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  resolve: { conditions: ["source", "browser", "module", "import"] },
  build: { outDir: "dist/app", emptyOutDir: true, chunkSizeWarningLimit: 600 },
  // While developing, the page comes from Vite and everything else from a running service.
  server: { port: 7421, proxy: { "/v1": { target: service, changeOrigin: true } } },
});
