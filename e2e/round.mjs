// The whole walk-round of one candidate on a phone, by touch, with the connection cut half-way and restored;
// then two people on one candidate.

import assert from "node:assert/strict";
import { cuttable, json, main, openPage } from "./browser.mjs";

const [, , demo] = process.argv;

/** A small picture, as a camera would give one. */
const picture = {
  name: "edge.png",
  mimeType: "image/png",
  buffer: Buffer.from(
    "iVBORw0KGgoAAAANSUhEUgAAAAIAAAACCAIAAAD91JpzAAAAEElEQVR4nGP4z8AARAwQCgAf7gP9i18U1AAAAABJRU5ErkJggg==",
    "base64",
  ),
};

const keyOf = (c) => `${c.family}/${c.check}`;
const card = (page, key) => page.locator(`[id="check-${key}"]`);

/** Opens a check and reads its caution where it can injure; whether there was one. */
async function open(page, key) {
  const head = card(page, key);
  if ((await head.getAttribute("aria-expanded")) !== "true") await head.tap();
  await page.locator(`[id="check-${key}"][aria-expanded="true"]`).waitFor();
  const read = page.locator(`[id="read-${key}"]`);
  if ((await read.count()) === 0) return false;
  const outcomes = page.getByRole("group", { name: /^Outcome of/ });
  assert.ok(await outcomes.getByRole("button").first().isDisabled(), key);
  await read.tap();
  await read.waitFor({ state: "detached" });
  return true;
}

async function first(page) {
  const outcomes = page.getByRole("group", { name: /^Outcome of/ });
  const button = outcomes.getByRole("button").first();
  await button.tap();
  await page.waitForFunction(
    () =>
      document.querySelector(
        '[role="group"][aria-label^="Outcome"] button[aria-pressed="true"]',
      ) !== null,
  );
}

/** Answers a check that is planned, unless an earlier finding left it out, before or meanwhile. */
async function answer(page, key) {
  // What was found may have moved the plan: its answer is waited for.
  await page.waitForFunction(
    () => document.querySelector('[data-testid="waiting"]') === null,
  );
  let caution = false;
  if ((await card(page, key).count()) === 0) return { caution, done: false };
  try {
    caution = await open(page, key);
    await first(page);
    return { caution, done: true };
  } catch (fault) {
    if ((await card(page, key).count()) === 0) return { caution, done: false };
    throw fault;
  }
}

async function wholeRound(browser) {
  const page = await openPage(browser, 390, 844);
  const yard = await json(`${demo}/api/candidates`);
  const { id } = yard.find((e) => e.summary.title.startsWith("North ferry"));
  const api = `${demo}/api/candidates/${id}`;
  const line = await cuttable(demo);
  await page.goto(`${line.address}/c/${id}/walk-round`);
  await page.getByRole("button", { name: "90 min", exact: true }).tap();
  await page.getByTestId("time-left").getByText("left of your").waitFor();
  await page.evaluate(() => navigator.serviceWorker.ready);
  await page.waitForFunction(() => navigator.serviceWorker.controller !== null);
  // What was seen is kept with the next look, a few seconds later; the page itself from the first.
  await page.waitForResponse(
    (r) =>
      new URL(r.url()).pathname === `/api/candidates/${id}` &&
      r.fromServiceWorker(),
  );

  const before = await json(api);
  const todo = before.assessment.walk.actions
    .filter((a) => a.chosen)
    .flatMap((a) => a.checks.filter((c) => !c.done).map(keyOf));
  assert.ok(todo.length >= 20, `${todo.length} checks`);
  const cut = Math.floor(todo.length / 2);
  let cautions = 0;
  let done = 0;
  for (const key of todo.slice(0, cut)) {
    const answered = await answer(page, key);
    cautions += Number(answered.caution);
    done += Number(answered.done);
  }

  // The connection goes.
  await page.waitForFunction(
    () => document.querySelector('[data-testid="waiting"]') === null,
  );
  const onceCut = await json(api);
  await line.cut(page);
  const away = [];
  for (const key of todo.slice(cut))
    if (away.length < 6 && (await card(page, key).count()) > 0) away.push(key);
  for (const key of away) {
    cautions += Number(await open(page, key));
    await first(page);
  }
  await page
    .getByTestId("waiting")
    .getByText(/findings waiting/)
    .waitFor();
  const chooser = page.waitForEvent("filechooser");
  await page.getByRole("button", { name: "Photo", exact: true }).tap();
  await (await chooser).setFiles(picture);
  await page.getByText("1 photo waiting on this device").waitFor();
  // It opens without a connection, to what it last showed, with what waits.
  await page.reload();
  await page.getByTestId("kept").getByText("No connection").waitFor();
  await page
    .getByTestId("waiting")
    .getByText(/findings waiting/)
    .waitFor();
  await page.getByText("1 photo waiting on this device").waitFor();
  for (const key of away)
    await card(page, key)
      .getByText(/^waiting: /)
      .waitFor();
  // Nothing of it got through; before, all that the plan kept did.
  const stillCut = (await json(api)).assessment.checks_done;
  assert.equal(stillCut, onceCut.assessment.checks_done);
  assert.equal(stillCut, before.assessment.checks_done + done);
  assert.ok(done > cut / 2, `${done} of ${cut}`);

  // It comes back: everything is sent, in order, once.
  await line.mend(page);
  await page
    .getByTestId("waiting")
    .waitFor({ state: "detached", timeout: 30_000 });
  await page
    .getByTestId("kept")
    .waitFor({ state: "detached", timeout: 30_000 });
  for (const key of todo.slice(cut)) {
    if (!away.includes(key))
      cautions += Number((await answer(page, key)).caution);
  }
  await page.waitForFunction(
    () => document.querySelector('[data-testid="waiting"]') === null,
  );
  const after = await json(api);
  const outcomes = after.candidate.findings
    .slice(before.candidate.findings.length)
    .filter((f) => f.result.kind === "outcome")
    .map(keyOf);
  assert.deepEqual(
    outcomes,
    todo.filter((k) => outcomes.includes(k)),
    "in order, once each",
  );
  assert.ok(
    outcomes.length >= todo.length - 6 &&
      away.every((k) => outcomes.includes(k)),
  );
  // Each hazard was read once, whatever the number of checks that have it.
  const read = after.candidate.findings.filter(
    (f) => f.result.kind === "acknowledged",
  );
  assert.equal(read.length, cautions);
  const hazards = new Set(after.assessment.walk.acknowledged);
  assert.ok(
    hazards.has("road") && hazards.has("raised") && cautions <= hazards.size,
  );
  const photo = after.attachments.filter((a) => a.check !== null);
  assert.deepEqual(
    photo.map((a) => `${a.family}/${a.check}`),
    [away.at(-1)],
  );
  await open(page, away.at(-1));
  await page
    .getByRole("img", { name: /^Photo 1 of/ })
    .first()
    .waitFor({ state: "attached" });

  // A timed check counts, a reading is worked out, another mind is kept beside the first.
  await page.getByRole("button", { name: "All it takes" }).tap();
  await page.getByTestId("time-left").getByText("for all that").waitFor();
  const timed = after.checks.find((c) => c.check.timer);
  await open(page, `${timed.family}/${timed.check.id}`);
  const clock = await page.getByTestId("timer").innerText();
  await page.getByRole("button", { name: /^Start the clock/ }).tap();
  await page.waitForFunction(
    (t) => document.querySelector('[data-testid="timer"]')?.textContent !== t,
    clock,
  );
  await page.getByRole("button", { name: /^Stop the clock/ }).tap();
  const tread = "base-vehicle/tread";
  await card(page, tread).waitFor();
  await open(page, tread);
  await page.getByLabel("front left").fill("4,5");
  await page.getByLabel("rear right").fill("deep");
  await page.getByRole("alert").getByText("is not a number").waitFor();
  await page.getByLabel("rear right").fill("1.2");
  await page.getByTestId("comes-to").getByText("under 1.6 mm").waitFor();
  await page.getByRole("button", { name: "Enter reading" }).tap();
  await page.getByTestId("danger").getByText("Do not drive it").waitFor();
  await page.getByLabel("rear right").fill("3.4");
  await page.getByTestId("comes-to").getByText("3 mm or more").waitFor();
  await page.getByRole("button", { name: "Enter reading" }).tap();
  await page.getByTestId("danger").waitFor({ state: "detached" });
  await page.getByText(/Earlier on this check \(/).tap();
  await page.getByText("1.2 mm").waitFor();
  await page.getByRole("button", { name: "Ask the seller" }).tap();
  await card(page, tread).getByText("ask the seller").waitFor();
  await page.getByRole("button", { name: /^Take back: Tread depth/ }).tap();
  await card(page, tread).getByText("3.4 mm, 3 mm or more").waitFor();

  const over = await page.evaluate(
    () =>
      document.documentElement.scrollWidth -
      document.documentElement.clientWidth,
  );
  assert.ok(over <= 0, `${over} px too wide`);
  assert.deepEqual(page.thrown, []);
  await page.context().close();
}

/** One underneath, one in the cabin. */
async function twoPeople(browser) {
  const yard = await json(`${demo}/api/candidates`);
  const { id } = yard.find((e) => e.summary.title.startsWith("Blue"));
  const pages = [
    await openPage(browser, 390, 844),
    await openPage(browser, 1280, 800),
  ];
  for (const page of pages) await page.goto(`${demo}/c/${id}/walk-round`);
  const [under, cabin] = pages;
  const enter = async (page, key, nth, how) => {
    const head = card(page, key);
    if ((await head.getAttribute("aria-expanded")) !== "true")
      await head[how]();
    await page.locator(`[id="check-${key}"][aria-expanded="true"]`).waitFor();
    const read = page.locator(`[id="read-${key}"]`);
    if ((await read.count()) > 0) {
      await read[how]();
      await read.waitFor({ state: "detached" });
    }
    await page
      .getByRole("group", { name: /^Outcome of/ })
      .getByRole("button")
      .nth(nth)
      [how]();
  };
  const view = await json(`${demo}/api/candidates/${id}`);
  const label = (key, nth) =>
    view.checks.find((c) => `${c.family}/${c.check.id}` === key).check.outcomes[
      nth
    ].label;
  const [a, b] = ["base-vehicle/lamps-outside", "base-vehicle/glass"];
  await Promise.all([enter(under, a, 1, "tap"), enter(cabin, b, 2, "click")]);
  // Each sees what the other found, within seconds and without asking for it.
  await card(cabin, a).getByText(label(a, 1)).waitFor({ timeout: 10_000 });
  await card(under, b).getByText(label(b, 2)).waitFor({ timeout: 10_000 });
  // On the same check both are kept; the later one holds.
  await enter(under, b, 0, "tap");
  await card(cabin, b).getByText(label(b, 0)).waitFor({ timeout: 10_000 });
  const after = await json(`${demo}/api/candidates/${id}`);
  const on = after.candidate.findings.filter(
    (f) => keyOf(f) === b && f.result.kind === "outcome",
  );
  assert.deepEqual(
    on.map((f) => f.result.outcome),
    [2, 0],
  );
  for (const page of pages) {
    assert.deepEqual(page.thrown, []);
    await page.context().close();
  }
}

await main(async (browser) => {
  await wholeRound(browser);
  await twoPeople(browser);
});
