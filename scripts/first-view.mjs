// How long it takes from opening a candidate to its road on the screen, in headless Chromium (see docs/PERFORMANCE.md).
// No driver looks on: one that listens to the network has scripts read once more. The application serves a copy of the
// built web with a clock in it, and the browser's log tells what the clock saw.
// Usage: [RUNS=7] [YARD=200] node scripts/first-view.mjs [folder of the built web] [title of a candidate]
// YARD fills the yard with copies of a candidate until it holds so many.

import { spawn } from "node:child_process";
import { chmodSync, cpSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { createInterface } from "node:readline";
import { setTimeout as rest } from "node:timers/promises";

const [, , web = "web/dist", title = "Harbour office Ferryman"] = process.argv;
const RUNS = Number(process.env.RUNS ?? 7);
/** A new window of this browser loads pages of its own for some two seconds; a person opens a page in one that stands. */
const SETTLED_MS = 4000;

const place = mkdtempSync(join(tmpdir(), "ticksage-first-view-"));
// The database runs as a user of its own.
chmodSync(place, 0o755);
const folder = join(place, "web");
cpSync(web, folder, { recursive: true });

/** Marks the first frame that shows what is waited for, by the page's own clock, and goes back to the start. */
const clock = () => {
  const wanted = location.pathname === "/" ? "h2, li a" : "[data-testid^=chance-]";
  const told = () => {
    console.log(`seen ${performance.now()} ${document.querySelectorAll("*").length}`);
    setTimeout(() => location.assign("/start.html"), 3000);
  };
  const look = () => {
    if (![...document.querySelectorAll(wanted)].some((e) => e.textContent)) return requestAnimationFrame(look);
    // The frame after the one that it was found in has been drawn.
    requestAnimationFrame(() => requestAnimationFrame(told));
  };
  requestAnimationFrame(look);
};
/** An empty page, from which the next look begins. */
const start = (settled) => {
  if (location.hash) sessionStorage.path = location.hash.slice(1);
  const looks = (sessionStorage.looks = Number(sessionStorage.looks ?? 0) + 1);
  if (looks > 4) console.log("done");
  else setTimeout(() => location.assign(sessionStorage.path), settled);
};
writeFileSync(join(folder, "clock.js"), `(${clock})();`);
writeFileSync(join(folder, "start.js"), `(${start})(${SETTLED_MS});`);
writeFileSync(join(folder, "start.html"), '<!doctype html><title>Start</title><script src="/start.js"></script>');
const page = readFileSync(join(folder, "index.html"), "utf8");
writeFileSync(join(folder, "index.html"), page.replace("</head>", `<script async src="/clock.js"></script></head>`));

const port = await new Promise((resolve) => {
  const free = createServer().listen(0, "127.0.0.1", () => {
    const { port } = free.address();
    free.close(() => resolve(port));
  });
});
const base = `http://127.0.0.1:${port}`;
const program = `${process.env.CARGO_TARGET_DIR ?? "target"}/release/ticksage`;
const options = ["--port", port, "--demo", "demo", "--data", join(place, "data"), "--web", folder];
const server = spawn(program, ["serve", ...options], { stdio: "ignore" });

async function yard() {
  for (let n = 0; n < 120; n++) {
    const answer = await fetch(`${base}/api/candidates`).catch(() => undefined);
    const list = answer?.ok ? await answer.json() : [];
    if (list.some((e) => e.title.startsWith(title))) return list;
    await rest(500);
  }
  throw new Error("the application did not start");
}

/** Fills the yard with copies, and has them judged. */
async function fill(list, most) {
  const copy = await (await fetch(`${base}/api/candidates/${list[0].id}/export`)).text();
  for (let n = list.length; n < most; n++) {
    const headers = { "content-type": "application/json" };
    await fetch(`${base}/api/candidates/import`, { method: "POST", headers, body: copy });
  }
  await (await fetch(`${base}/api/candidates`)).text();
}

/** Ends a program and waits for it. */
async function ended(program) {
  const gone = new Promise((resolve) => program.once("exit", resolve));
  if (program.exitCode === null && program.kill()) await gone;
}

/** Four looks at a page by one browser that has never seen it: times and elements. */
async function looks(path, run) {
  const profile = join(place, `browser-${run}`);
  const options = ["--headless=new", "--no-sandbox", "--disable-gpu", "--disable-background-networking"];
  options.push("--disable-component-update", "--enable-logging=stderr", "--window-size=1280,800");
  const browser = spawn(process.env.CHROMIUM ?? "/usr/bin/chromium", [
    ...options,
    `--user-data-dir=${profile}`,
    `${base}/start.html#${path}`,
  ]);
  const seen = [];
  for await (const line of createInterface({ input: browser.stderr })) {
    const told = /"seen ([\d.]+) (\d+)"/.exec(line);
    if (told) seen.push(told.slice(1).map(Number));
    if (line.includes('"done"')) break;
  }
  if (seen.length < 4) throw new Error("the browser ended too early");
  await ended(browser);
  return seen;
}

const middle = (all) => all.sort((x, y) => x - y)[Math.floor(all.length / 2)];
const told = (all) => `${middle(all).toFixed(0)} ms (least ${Math.min(...all).toFixed(0)})`;
try {
  const list = await yard();
  await fill(list, Number(process.env.YARD ?? 0));
  const id = list.find((e) => e.title.startsWith(title)).id;
  for (const [name, path] of [
    ["a candidate's road", `/c/${id}/road`],
    ["the yard", "/"],
  ]) {
    const [cold, warm, nodes] = [[], [], []];
    for (let run = 0; run < RUNS; run++) {
      // After the second the device keeps the application, and the browser what it compiled.
      const [first, , ...later] = await looks(path, `${run}-${path.length}`);
      cold.push(first[0]);
      warm.push(...later.map((l) => l[0]));
      nodes.push(first[1]);
    }
    console.log(`${name}: cold ${told(cold)}, warm ${told(warm)}, ${middle(nodes)} elements at first`);
  }
} finally {
  await ended(server);
  rmSync(place, { recursive: true, force: true });
}
