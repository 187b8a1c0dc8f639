// The walk-round and the road ahead without a pointer.

import assert from "node:assert/strict";
import { json, main, openPage } from "./browser.mjs";

const [, , demo] = process.argv;

await main(async (browser) => {
  const page = await openPage(browser, 1280, 800);
  const entry = (await json(`${demo}/api/candidates`)).find(
    (e) => e.summary.title === "Repainted Ferryman",
  );
  const api = `${demo}/api/candidates/${entry.id}`;
  await page.goto(`${demo}/c/${entry.id}/walk-round`);
  const done = page.getByTestId("done");
  await done.waitFor();
  const doneIs = (n) =>
    page.waitForFunction(
      (v) => document.querySelector('[data-testid="done"]')?.textContent === v,
      String(n),
    );
  const before = Number(await done.innerText());

  // A number enters the outcome of the check in hand; the arrows move; u takes back.
  const inHand = () =>
    page.locator('[id^="check-"][aria-expanded="true"]').getAttribute("id");
  const first = await inHand();
  await page.keyboard.press("1");
  await doneIs(before + 1);
  await page.keyboard.press("ArrowDown");
  const second = await inHand();
  assert.notEqual(first, second);
  await page.keyboard.press("n");
  await page.keyboard.type("left side 1 only");
  assert.equal(
    (await json(api)).assessment.checks_done,
    before + 1,
    "digits in a note are a note",
  );
  await page.locator(`[id="${second}"]`).focus();
  await page.keyboard.press("2");
  await page.keyboard.press("ArrowUp");
  assert.equal(await inHand(), first);
  await page.keyboard.press("u");
  await page.keyboard.press("?");
  await page.getByRole("dialog", { name: "Keys" }).waitFor();
  await page.keyboard.press("Escape");

  // The road ahead: arrows go from point to point and the why follows.
  await page.keyboard.press("g");
  await page.keyboard.press("r");
  await page.getByRole("heading", { name: "Road ahead" }).waitFor();
  const title = () => page.getByTestId("why").getByRole("heading").innerText();
  await page.keyboard.press("ArrowDown");
  const one = await title();
  await page.keyboard.press("ArrowDown");
  assert.notEqual(await title(), one);

  // Into the point laid open and back, by keyboard alone.
  await page.getByRole("link", { name: "Who claims what" }).focus();
  await page.keyboard.press("Enter");
  await page.getByTestId("claims").waitFor();
  await page
    .getByRole("link", { name: /Road ahead/ })
    .last()
    .focus();
  await page.keyboard.press("Enter");
  await page.getByTestId("why").waitFor();

  // A level of use is a slider like any other.
  await page.getByRole("button", { name: /Sources and use/ }).focus();
  await page.keyboard.press("Enter");
  await page.getByLabel("your plan").first().focus();
  await page.keyboard.press("End");
  await page.getByTestId("trial").waitFor();
  await page.getByRole("button", { name: "Put back" }).focus();
  await page.keyboard.press("Enter");
  await page.getByTestId("trial").waitFor({ state: "detached" });
  await page.keyboard.press("g");
  await page.keyboard.press("v");
  await page.getByTestId("verdict").waitFor();
  await page.keyboard.press("g");
  await page.keyboard.press("y");
  await page.getByRole("heading", { name: "Yard" }).waitFor();

  // From the top, Tab reaches the main things in order.
  await page.keyboard.press("Tab");
  const reached = [];
  for (let i = 0; i < 6; i++) {
    reached.push(
      await page.evaluate(() => document.activeElement?.textContent?.trim()),
    );
    await page.keyboard.press("Tab");
  }
  assert.ok(reached.includes("New candidate"), reached.join(", "));
  assert.deepEqual(page.thrown, []);
});
