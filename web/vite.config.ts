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

/** Fonts of the letters that nearly every page is set in. */
const LATIN_FONT = /-latin-wght-normal.*\.woff2$/;

/** Has the fonts of the first page fetched along with its scripts: text laid out twice is seen to jump. */
function fontsAtOnce(): Plugin {
  return {
    name: "fonts-at-once",
    transformIndexHtml: {
      order: "post",
      handler: (_, { bundle }) =>
        Object.keys(bundle ?? {})
          .filter((file) => LATIN_FONT.test(file))
          .map((file) => ({
            tag: "link",
            attrs: { rel: "preload", as: "font", type: "font/woff2", href: `/${file}`, crossorigin: "" },
            injectTo: "head-prepend" as const,
          })),
    },
  };
}

/** Names the files of a build to what keeps them on the device. */
function kept(): Plugin {
  const dist = new URL("./dist/", import.meta.url);
  return {
    name: "kept",
    apply: "build",
    closeBundle() {
      const files = readdirSync(new URL("assets/", dist))
        .filter((n) => /\.(js|css)$/.test(n) || LATIN_FONT.test(n))
        .map((n) => `/assets/${n}`);
      const worker = new URL("sw.js", dist);
      const text = readFileSync(worker, "utf8").replace(
        "const FILES = [];",
        `const FILES = ${JSON.stringify(files)};`,
      );
      writeFileSync(worker, text);
    },
  };
}

/** What the bundler tells of a module. */
interface Module {
  isEntry: boolean;
  /** Whoever imports it at once. */
  importers: readonly string[];
}

/** Whether a module is of the first page: reached from where it begins without being asked for later. */
function firstPage(): (id: string, all: { getModuleInfo: (id: string) => Module | null }) => string | null {
  const known = new Map<string, boolean>();
  const reached = (id: string, of: (id: string) => Module | null): boolean => {
    const before = known.get(id);
    if (before !== undefined) return before;
    known.set(id, false);
    const info = of(id);
    const yes = !!info && (info.isEntry || info.importers.some((i) => reached(i, of)));
    known.set(id, yes);
    return yes;
  };
  return (id, all) => (reached(id, (of) => all.getModuleInfo(of)) ? "first" : null);
}

export default defineConfig({
  plugins: [react(), tailwindcss(), packed(), fontsAtOnce(), kept()],
  build: {
    target: "es2022",
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 900,
    // One file for the first page: each further one is waited for.
    rolldownOptions: { output: { codeSplitting: { groups: [{ debugName: "first", name: firstPage() }] } } },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8460" } },
});
