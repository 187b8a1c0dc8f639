// The database goes and comes back; two browsers change one candidate; nonsense is typed.

import assert from "node:assert/strict";
import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { database, folder, json, main, openPage } from "./browser.mjs";

const [, , demo] = process.argv;

await main(async (browser) => {
  const page = await openPage(browser, 390, 844);
  const entry = (await json(`${demo}/api/candidates`)).find(
    (e) => e.summary.title === "Long-haul Ferryman",
  );
  const api = `${demo}/api/candidates/${entry.id}`;

  // Nonsense in the form is named at its field; what was typed stays, even over a reload.
  await page.goto(`${demo}/new`);
  await page.getByRole("button", { name: "Put it in the yard" }).click();
  for (const said of [
    "Give it a name",
    "Choose a family",
    "Usage is missing",
    "The build date is missing",
    "asking price is missing",
  ]) {
    await page.getByText(said).waitFor();
  }
  await page.getByLabel("What you call it").fill("Kept");
  await page.getByRole("checkbox", { name: /T22/ }).check();
  await page.getByLabel("Usage now").fill("many");
  await page.getByLabel(/Asking price/).fill("-5");
  await page.getByLabel("Built, or first registered").fill("2016-05-05");
  await page.getByText("Usage is not a number").waitFor();
  await page.getByText("cannot be below 0").waitFor();
  // A number with marks is read back as it is understood.
  await page.getByLabel("Usage now").fill("120,500");
  await page.getByText(/read as 120.500/).waitFor();
  await page.getByLabel("Usage now").fill("4.500");
  await page.getByText(/read as 4.500/).waitFor();
  await page.getByLabel("Usage now").fill("5000");
  await page.getByLabel("Unit").selectOption("h");
  await page.getByLabel(/Asking price/).fill("5000");
  await page.getByRole("button", { name: "Put it in the yard" }).click();
  await page.getByText("is counted in kilometres or miles").first().waitFor();
  await page.reload();
  assert.equal(await page.getByLabel("What you call it").inputValue(), "Kept");

  // A file that is not ours is refused in a sentence.
  const bad = join(folder(), "bad.json");
  writeFileSync(bad, "{ not json");
  await page.goto(demo);
  await page.getByLabel("File to import").setInputFiles(bad);
  await page.getByText("is not JSON").waitFor();
  writeFileSync(
    bad,
    JSON.stringify({
      format: "ticksage-bundle/2",
      candidate: {},
      families: [],
    }),
  );
  await page.getByLabel("File to import").setInputFiles(bad);
  await page.getByRole("alert").getByText("/candidate").first().waitFor();

  // Put away by mistake, and brought back.
  await page
    .getByRole("button", { name: "Put away Long-haul Ferryman" })
    .click();
  await page.getByText("Long-haul Ferryman is put away").waitFor();
  await page.getByRole("button", { name: "Bring it back" }).click();
  await page.getByRole("link", { name: "Long-haul Ferryman" }).waitFor();

  // The database stops in the middle of a walk-round: findings wait on the phone.
  await page.goto(`${demo}/c/${entry.id}/walk-round`);
  const done = page.getByTestId("done");
  await done.waitFor();
  const before = Number(await done.innerText());
  await database("stop");
  const tap = async (check, outcome) => {
    const card = page.locator(`[id="check-${check}"]`);
    if ((await card.getAttribute("aria-expanded")) !== "true")
      await card.click();
    await page.getByRole("button", { name: outcome }).click();
  };
  await tap("ferryman/air", /weak or one speed/);
  await tap("ferryman/doors", /sticks, or lamps dead/);
  await page.getByTestId("waiting").getByText("2 findings waiting").waitFor();
  await page
    .getByTestId("waiting")
    .getByText(/do not answer/)
    .waitFor();
  // Even a reload keeps them.
  await page.reload();
  await page.getByTestId("waiting").getByText("2 findings waiting").waitFor();
  await database("start");
  await done.waitFor();
  await page.waitForFunction(
    (n) =>
      document.querySelector('[data-testid="done"]')?.textContent === String(n),
    before + 1,
    {
      timeout: 30_000,
    },
  );
  await page.getByTestId("waiting").waitFor({ state: "detached" });
  const stored = (await json(api)).candidate.findings.filter((f) => f.at);
  assert.deepEqual(
    stored.map((f) => [f.check, f.result.outcome]),
    [
      ["air", 1],
      ["doors", 2],
    ],
    "in order, and once",
  );

  // A finding that the server refuses is kept with its note until the person says what to do.
  await page.route(/\/findings(\?|$)/, (route) =>
    route.fulfill({
      status: 422,
      contentType: "application/json",
      body: JSON.stringify({
        code: "faulty",
        message: "the check is gone",
        faults: [],
      }),
    }),
  );
  await page.locator('[id="check-ferryman/lamps"]').click();
  await page.getByLabel("Note").fill("left one flickers");
  await page.getByRole("button", { name: /all light, all go out/ }).click();
  await page.getByRole("alert").getByText("left one flickers").waitFor();
  await page.reload();
  await page.getByRole("alert").getByText("the check is gone").waitFor();
  await page.unroute(/\/findings(\?|$)/);
  const sent = page.waitForResponse(
    (r) =>
      new URL(r.url()).pathname.endsWith("/findings") && r.status() === 201,
  );
  await page.getByRole("button", { name: "Send again" }).click();
  await sent;
  await page.getByRole("alert").waitFor({ state: "detached" });
  const kept = (await json(api)).candidate.findings.at(-1);
  assert.deepEqual([kept.check, kept.note], ["lamps", "left one flickers"]);

  // A part of an address that there is not leads to its screen, with its tab.
  for (const [nowhere, screen] of [
    ["papers/nothing", "papers"],
    ["verdict/nothing", "verdict"],
    ["bill/x", "bill"],
    ["papers/x/y", "papers"],
  ]) {
    await page.goto(`${demo}/c/${entry.id}/${nowhere}`);
    await page.waitForURL(`**/c/${entry.id}/${screen}`);
    await page
      .getByRole("navigation", { name: "Order of work" })
      .locator("[aria-current]")
      .waitFor();
  }

  // Two browsers: each sees the other's finding, and a conflicting edit is shown, not lost.
  const other = await openPage(browser, 1280, 800);
  await other.goto(`${demo}/c/${entry.id}/advert`);
  await page.goto(`${demo}/c/${entry.id}/advert`);
  await other.getByLabel(/Asking price/).fill("6000");
  await page.getByLabel(/Asking price/).fill("5500");
  await other.getByRole("button", { name: "Save" }).click();
  await other.getByText("Saved.").waitFor();
  await page.getByRole("button", { name: "Save" }).click();
  await page.getByText("Somebody else changed this meanwhile").waitFor();
  assert.equal(await page.getByLabel(/Asking price/).inputValue(), "5500");
  assert.equal((await json(api)).candidate.asking, 6000);
  await page.getByRole("button", { name: "Keep my figures" }).click();
  await page
    .getByRole("button", { name: "Keep my figures" })
    .waitFor({ state: "detached" });
  await page.getByRole("button", { name: "Save" }).click();
  await page.getByText("Saved.").waitFor();
  assert.equal((await json(api)).candidate.asking, 5500);

  assert.deepEqual([...page.thrown, ...other.thrown], []);
});
