// What every journey needs: a browser, and words with the test that started it.

import { createRequire } from "node:module";
import { connect, createServer } from "node:net";
import { mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { createInterface } from "node:readline";
import { deflateSync } from "node:zlib";

const require = createRequire(new URL("../web/package.json", import.meta.url));
export const { chromium, devices } = require("playwright-core");
export const AxeBuilder = require("@axe-core/playwright").default;

const root = process.getuid?.() === 0;

/** How Chromium is started, for a journey alone and for all of them. */
export const launch = {
  executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
  args: [
    ...(root ? ["--no-sandbox"] : []),
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    // A name by which the application is reached as from another machine.
    "--host-resolver-rules=MAP yard.example 127.0.0.1",
  ],
};

/**
 * Gives `journey` the browser that the test shares among journeys, or one of its own where it is started by hand.
 * What it opened is closed whatever happens.
 */
export async function withBrowser(journey) {
  const shared = process.env.TICKSAGE_BROWSER;
  const browser = shared
    ? await chromium.connect(shared)
    : await chromium.launch(launch);
  try {
    await journey(browser);
  } catch (e) {
    console.log(`it failed: ${e.stack ?? e}`);
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

/**
 * A line to the application that can be cut: whatever the browser's own idea of being offline covers, no part of it
 * gets through.
 */
export async function cuttable(target) {
  const { hostname, port } = new URL(target);
  const live = new Set();
  let whole = true;
  const server = createServer((near) => {
    if (!whole) return near.destroy();
    const far = connect(Number(port), hostname);
    for (const [one, other] of [
      [near, far],
      [far, near],
    ]) {
      live.add(one);
      one.pipe(other);
      one.on("error", () => other.destroy());
      one.on("close", () => {
        live.delete(one);
        other.destroy();
      });
    }
  });
  await new Promise((ready) => server.listen(0, "127.0.0.1", ready));
  return {
    address: `http://127.0.0.1:${server.address().port}`,
    async cut(page) {
      whole = false;
      live.forEach((socket) => socket.destroy());
      await page.context().setOffline(true);
    },
    async mend(page) {
      whole = true;
      await page.context().setOffline(false);
    },
  };
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

/** A PNG of one colour. */
export function png(side) {
  const crc = (bytes) => {
    let c = ~0;
    for (const b of bytes) {
      c ^= b;
      for (let k = 0; k < 8; k++) c = (c >>> 1) ^ (c & 1 ? 0xedb88320 : 0);
    }
    return ~c >>> 0;
  };
  const chunk = (type, data) => {
    const body = Buffer.concat([Buffer.from(type), data]);
    const out = Buffer.alloc(body.length + 8);
    out.writeUInt32BE(data.length, 0);
    body.copy(out, 4);
    out.writeUInt32BE(crc(body), body.length + 4);
    return out;
  };
  const head = Buffer.alloc(13);
  head.writeUInt32BE(side, 0);
  head.writeUInt32BE(side, 4);
  head.set([8, 2, 0, 0, 0], 8);
  const row = Buffer.concat([Buffer.from([0]), Buffer.alloc(side * 3, 120)]);
  const rows = Buffer.concat(Array.from({ length: side }, () => row));
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
    chunk("IHDR", head),
    chunk("IDAT", deflateSync(rows)),
    chunk("IEND", Buffer.alloc(0)),
  ]);
}

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
