// How long it takes from opening a candidate to its road on the screen, in headless Chromium (see docs/PERFORMANCE.md).
// Usage: node scripts/first-view.mjs http://127.0.0.1:8460 [title of a candidate]

import { createRequire } from "node:module";

const require = createRequire(new URL("../web/package.json", import.meta.url));
const { chromium } = require("playwright-core");
const [, , base = "http://127.0.0.1:8460", title = "Harbour office Ferryman"] =
  process.argv;
const yard = await (await fetch(`${base}/api/candidates`)).json();
const id = yard.find((e) => e.title.startsWith(title)).id;
const args = [
  "--no-sandbox",
  "--disable-gpu",
  "--disable-background-networking",
  "--disable-component-update",
];
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
  args,
});

/** Marks the time of the first frame that shows what is waited for, by the page's own clock. */
const watch = (wanted) => {
  const look = () => {
    if (![...document.querySelectorAll(wanted)].some((e) => e.textContent))
      return requestAnimationFrame(look);
    // The frame after the one that it was found in has been drawn.
    requestAnimationFrame(() =>
      requestAnimationFrame(() => (window.ticksageSeen = performance.now())),
    );
  };
  requestAnimationFrame(look);
};

/** From the beginning of the navigation to that frame, and as long as the driver of the browser waited. */
async function view(page, path) {
  const begun = performance.now();
  await page.goto(base + path, { waitUntil: "commit" });
  await page.waitForFunction(() => window.ticksageSeen);
  const driver = performance.now() - begun;
  return [await page.evaluate(() => window.ticksageSeen), driver];
}

/** A new window of this browser loads pages of its own for some two seconds, and a page that is left tidies up: a
 *  person opens the page in a window that stands. */
async function settled(page) {
  await page.goto("about:blank");
  await page.waitForTimeout(2500);
}

const middle = (times) =>
  times.sort((x, y) => x - y)[Math.floor(times.length / 2)];
const told = (pairs) =>
  `${middle(pairs.map((p) => p[0])).toFixed(0)} ms (the driver ${middle(pairs.map((p) => p[1])).toFixed(0)})`;
for (const [name, path, wanted] of [
  ["a candidate's road", `/c/${id}/road`, "[data-testid^=chance-]"],
  ["the yard", "/", "h2, li a"],
]) {
  const [cold, warm, nodes] = [[], [], []];
  for (let n = 0; n < 7; n++) {
    const context = await browser.newContext({
      viewport: { width: 1280, height: 800 },
    });
    const page = await context.newPage();
    await page.addInitScript(watch, wanted);
    await settled(page);
    cold.push(await view(page, path));
    // The device keeps the application by then, and the browser what it compiled.
    for (let again = 0; again < 2; again++) {
      await page.waitForTimeout(2500);
      await settled(page);
      if (again > 0) warm.push(await view(page, path));
      else await view(page, path);
    }
    nodes.push(
      await page.evaluate(() => document.querySelectorAll("*").length),
    );
    await context.close();
  }
  console.log(
    `${name}: cold ${told(cold)}, warm ${told(warm)}, ${middle(nodes)} nodes`,
  );
}
await browser.close();
