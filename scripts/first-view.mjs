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

async function view(page, path, wanted) {
  const begun = performance.now();
  await page.goto(base + path, { waitUntil: "commit" });
  await page.locator(wanted).first().waitFor();
  return performance.now() - begun;
}

const middle = (times) =>
  times.sort((x, y) => x - y)[Math.floor(times.length / 2)];
for (const [name, path, wanted] of [
  [
    "a candidate's road",
    `/c/${id}/road`,
    "[data-point], h1:has-text('Road ahead')",
  ],
  ["the yard", "/", "h2, li a"],
]) {
  const [cold, warm, nodes] = [[], [], []];
  for (let n = 0; n < 7; n++) {
    const context = await browser.newContext({
      viewport: { width: 1280, height: 800 },
    });
    const page = await context.newPage();
    cold.push(await view(page, path, wanted));
    await page.waitForTimeout(1500);
    warm.push(await view(page, path, wanted));
    nodes.push(
      await page.evaluate(() => document.querySelectorAll("*").length),
    );
    await context.close();
  }
  console.log(
    `${name}: cold ${middle(cold).toFixed(0)} ms, warm ${middle(warm).toFixed(0)} ms, ${middle(nodes)} nodes`,
  );
}
await browser.close();
