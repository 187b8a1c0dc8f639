// Bundles the unit tests of the web's pure functions and runs them with Node's own test runner.

import { spawnSync } from "node:child_process";
import { mkdtempSync, readdirSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { build } from "vite";

const here = fileURLToPath(new URL(".", import.meta.url));
const outDir = mkdtempSync(join(tmpdir(), "ticksage-unit-"));
const input = readdirSync(here)
  .filter((f) => f.endsWith(".test.ts"))
  .map((f) => join(here, f));
try {
  await build({
    configFile: false,
    logLevel: "warn",
    root: join(here, ".."),
    build: {
      ssr: true,
      outDir,
      emptyOutDir: false,
      rollupOptions: { input, output: { entryFileNames: "[name].mjs" } },
    },
  });
  const files = readdirSync(outDir)
    .filter((f) => f.endsWith(".test.mjs"))
    .map((f) => join(outDir, f));
  const { status } = spawnSync(
    process.execPath,
    ["--test", "--test-reporter=spec", "--test-force-exit", ...files],
    {
      stdio: "inherit",
    },
  );
  process.exitCode = status === 0 && files.length === input.length ? 0 : 1;
} finally {
  rmSync(outDir, { recursive: true, force: true });
}
