// What every journey needs: a browser, and words with the test that started it.

import { createRequire } from "node:module";
import { mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { createInterface } from "node:readline";

const require = createRequire(new URL("../web/package.json", import.meta.url));
export const { chromium, devices } = require("playwright-core");
export const AxeBuilder = require("@axe-core/playwright").default;

const root = process.getuid?.() === 0;

/** Starts Chromium, gives each page to `journey`, and closes it whatever happens. */
export async function withBrowser(journey) {
  const browser = await chromium.launch({
    executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
    args: [
      ...(root ? ["--no-sandbox"] : []),
      "--disable-gpu",
      "--disable-quic",
      "--no-first-run",
      "--disable-background-networking",
      "--disable-component-update",
      "--disable-sync",
    ],
  });
  try {
    await journey(browser);
  } catch (e) {
    for (const page of browser.contexts().flatMap((c) => c.pages())) {
      const shown = await page
        .locator("body")
        .innerText({ timeout: 2_000 })
        .catch(String);
      console.log(
        `${page.url()} showed when it failed:\n${shown.slice(0, 4_000)}`,
      );
    }
    throw e;
  } finally {
    await browser.close();
  }
}

/** A page of a size that fails the journey when the application throws or breaks its content policy. */
export async function openPage(browser, width, height, options = {}) {
  const context = await browser.newContext({
    viewport: { width, height },
    hasTouch: width < 500,
    acceptDownloads: true,
    ...options,
  });
  const page = await context.newPage();
  page.setDefaultTimeout(15_000);
  const thrown = [];
  page.on("pageerror", (e) => thrown.push(e.message));
  page.on("console", (m) => {
    if (m.type() === "error" && !m.text().includes("Failed to load resource"))
      thrown.push(m.text());
  });
  page.thrown = thrown;
  return page;
}

const answers = createInterface({ input: process.stdin })[
  Symbol.asyncIterator
]();

/** Has the test stop or start the database. */
export async function database(what) {
  console.log(`@db ${what}`);
  await answers.next();
}

/** Asks the application until what it answers is as wanted. */
export async function until(api, wanted) {
  const end = Date.now() + 20_000;
  for (;;) {
    const view = await json(api);
    if (wanted(view)) return view;
    if (Date.now() > end) throw new Error(`not within 20 s: ${wanted}`);
    await new Promise((next) => setTimeout(next, 150));
  }
}

/** Reads the caution of an open check where it can injure; whether there was one. */
export async function readCaution(page, key) {
  const read = page.locator(`[id="read-${key}"]`);
  if ((await read.count()) === 0) return false;
  await read.click();
  await read.waitFor({ state: "detached" });
  return true;
}

/** A chance as the screen writes it. */
export const percent = (p) =>
  (p < 0.01
    ? "< 1 %"
    : p > 0.99
      ? "> 99 %"
      : `${Math.round(p * 100)} %`
  ).replace(/ /g, "\u00a0");

export const json = async (url) => (await fetch(url)).json();

export const folder = () => mkdtempSync(join(tmpdir(), "ticksage-e2e-"));

/** Runs a journey and ends the process with its outcome. */
export async function main(journey) {
  try {
    await withBrowser(journey);
    process.exit(0);
  } catch (e) {
    console.log(e.stack ?? String(e));
    process.exit(1);
  }
}
