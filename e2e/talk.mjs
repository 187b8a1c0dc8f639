// Sheets: a family from nothing by lines of talk; what is read, what is asked, what is written.

import assert from "node:assert/strict";
import { AxeBuilder, json, main, openPage } from "./browser.mjs";

const [, , demo, , w, h] = process.argv;

await main(async (browser) => {
  const page = await openPage(browser, Number(w), Number(h));
  const made = await fetch(`${demo}/api/families/built`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({
      name: "Shore van",
      currency: "HSC",
      answers: {
        thing: "car",
        size: "van",
        power: "diesel",
        gearbox: "manual",
        timing: "chain",
      },
    }),
  });
  assert.equal(made.status, 201);
  await page.goto(demo);
  await page.getByRole("link", { name: /Sheets: what is known/ }).click();
  await page.getByLabel("Find a sheet").fill("shore");
  await page.getByRole("link", { name: /Shore van/ }).click();

  // Typed: what was understood stands under the line; one question is asked; the rest stays as a note.
  const talk = page.getByLabel(/Say what you know/);
  await talk.fill(
    [
      "timing chain: rarely past 90k km; most; rattle cold !clear; 1200-1800; by workshop",
      "first try the tensioner, 120: in four of ten that is all",
      "gull-wing latch: from 60k km, 90",
      "what a lovely colour",
      "<img src=x onerror=alert(1)> turbo common from 100k",
    ].join("\n"),
  );
  const lines = page.getByTestId("talk-lines").getByRole("listitem");
  await page.getByText("3 placed, 1 ask, 2 kept as notes").waitFor();
  assert.equal(await lines.count(), 5);
  await lines.nth(0).getByText("rarely past 90 000 km").waitFor();
  await lines.nth(2).getByRole("button", { name: "common" }).click();
  await page.getByText("3 placed, 0 ask, 2 kept as notes").waitFor();
  const before = await json(`${demo}/api/families/shore-van`);
  await page.getByLabel("Where it comes from").fill("Evening at the slip");
  await page
    .getByRole("button", { name: "Write 3 lines into the sheet" })
    .click();
  await page.getByText("3 lines are in the sheet: version 2.").waitFor();
  // What was not placed is still there.
  assert.ok((await talk.inputValue()).includes("what a lovely colour"));

  const after = await json(`${demo}/api/families/shore-van`);
  assert.equal(after.version, before.version + 1);
  const chain = after.points.find(
    (p) => p.part === "timing-chain" && p.routes?.length,
  );
  assert.deepEqual(chain.life[0].says, { form: "rarely_beyond", at: 90000 });
  assert.equal(chain.life[0].stands.title, "Evening at the slip");
  assert.equal(chain.routes[0].suffices, 0.4);
  assert.ok(
    after.points.some((p) => p.name === "Gull-wing latch" && p.share.length),
  );
  // The same lines again change nothing.
  const again = await fetch(`${demo}/api/families/shore-van/talk`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({
      from: 2,
      source: { title: "Evening at the slip" },
      lines: [{ text: "gull-wing latch: from 60k km, 90, common" }],
    }),
  });
  const told = await again.json();
  assert.deepEqual([told.changed, told.known], [0, 1]);
  const stale = await fetch(`${demo}/api/families/shore-van/talk`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({
      from: 1,
      lines: [{ text: "radiator from 9 years" }],
    }),
  });
  assert.equal(stale.status, 409);

  // A point on its lane says where it comes from; what a typical one costs is held to the usual.
  await page
    .getByRole("button", { name: /^Timing chain stretched/ })
    .first()
    .click();
  await page
    .getByTestId("about")
    .getByText(/This sheet’s own/)
    .waitFor();
  await page
    .getByTestId("about")
    .getByText(/Evening at the slip/)
    .first()
    .waitFor();
  const sane = await json(`${demo}/api/families/shore-van/sanity?currency=HSC`);
  const shown = await page
    .getByTestId("sanity")
    .locator("b")
    .first()
    .innerText();
  const figure = Number(shown.replace(/\D/g, ""));
  const off = Math.abs(figure / sane.examples[0].a_year - 1);
  assert.ok(off < 0.06, `${shown} for ${sane.examples[0].a_year}`);
  const axe = await new AxeBuilder({ page }).analyze();
  assert.deepEqual(
    axe.violations.map((v) => `${v.id}: ${v.nodes[0]?.html}`),
    [],
  );
});
