import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { constants, gzipSync } from "node:zlib";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** Packs what the server would else pack anew for every browser. */
function packed(): Plugin {
  const folder = new URL("./dist/assets/", import.meta.url);
  return {
    name: "packed",
    apply: "build",
    closeBundle() {
      for (const name of readdirSync(folder).filter((n) => /\.(js|css|svg)$/.test(n))) {
        const file = new URL(name, folder);
        const small = gzipSync(readFileSync(file), { level: constants.Z_BEST_COMPRESSION });
        writeFileSync(new URL(`${name}.gz`, folder), small);
      }
    },
  };
}

export default defineConfig({
  plugins: [react(), tailwindcss(), packed()],
  build: { target: "es2022", assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": "http://127.0.0.1:8460" } },
});
