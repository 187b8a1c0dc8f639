// Before any one vehicle: which builds to look for; then sixty adverts pasted, judged, swept, ranked, cancelled, and
// three of them taken to the yard with their questions.

import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { json, main, openPage } from "./browser.mjs";

const [, , demo, , w, h] = process.argv;
const text = readFileSync(
  new URL("../demo/adverts.txt", import.meta.url),
  "utf8",
);
const figure = (s) => Number(s.replace(/[^\d]/g, ""));
const post = async (path, body) =>
  (
    await fetch(`${demo}/api${path}`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify(body),
    })
  ).json();

await main(async (browser) => {
  const page = await openPage(browser, Number(w), Number(h));
  await page.context().grantPermissions(["clipboard-read", "clipboard-write"]);
  const list_ = () => page.getByRole("textbox", { name: /^The list/ });
  /** A long list comes by the clipboard: typed, the browser itself takes a quarter of a minute over it. */
  const paste = async (whole) => {
    await list_().fill("");
    await list_().evaluate((field, pasted) => {
      const clipboardData = new DataTransfer();
      clipboardData.setData("text/plain", pasted);
      field.dispatchEvent(
        new ClipboardEvent("paste", {
          clipboardData,
          bubbles: true,
          cancelable: true,
        }),
      );
    }, whole);
  };
  const fits = async () =>
    assert.ok(
      (await page.evaluate(
        () =>
          document.documentElement.scrollWidth -
          document.documentElement.clientWidth,
      )) <= 0,
    );

  // Which to look for: the later belt shows as money, and the advice with it.
  await page.goto(`${demo}/which`);
  await page.getByLabel("Family").selectOption("bk4");
  await page.getByText("laminated").first().waitFor();
  const stretches = page.getByTestId("stretch");
  assert.ok((await stretches.count()) >= 2);
  const exact = await post("/narrow", {
    families: ["bk4"],
    wanted: { years: 3, usage_a_year: 15000 },
  });
  const cheapest = figure(
    (await stretches.first().innerText()).match(/([\d\s]+) a year/)[1],
  );
  assert.ok(
    Math.abs(cheapest - exact.stretches[0].a_year) <=
      0.05 * exact.stretches[0].a_year,
  );
  await stretches
    .filter({ hasText: "Prefer:" })
    .filter({ hasText: "the figures agree" })
    .first()
    .waitFor();
  await page.getByTestId("insist").getByText("Timing belt in oil").waitFor();
  const before = await page.getByTestId("mixture").innerText();
  await page.getByLabel(/km a year/).fill("40000");
  await page.waitForFunction(
    (b) => document.querySelector('[data-testid="mixture"]')?.textContent !== b,
    before,
  );
  await fits();

  // The list: judged with progress; what repeats and what lacks a price is said.
  await page.getByRole("link", { name: "Adverts" }).click();
  await list_().fill(text);
  await page.getByRole("button", { name: "Judge the list" }).click();
  const progress = page.getByTestId("progress");
  await progress.getByText(/ of \d+ judged/).waitFor();
  const list = { text, currency: "HSC", years: 3, km_a_year: 15000 };
  const read = await post("/adverts/list", list);
  assert.ok(read.open.length >= 50, `${read.open.length} of 60`);
  await progress
    .getByText(`${read.open.length} of ${read.open.length} judged`)
    .waitFor({ timeout: 60_000 });
  assert.match(await progress.innerText(), /1 repeats another/);
  assert.match(await progress.innerText(), /lacks price/);

  // The first is the best by what it is worth against what is asked; the figures are the API's.
  const cards = page.getByTestId("advert");
  const judged = (
    await Promise.all(
      [0, 30].map((k) =>
        post("/adverts/judge", { list, lines: read.open.slice(k, k + 30) }),
      ),
    )
  ).flat();
  const best = judged.sort((a, b) => b.surplus - a.surplus)[0];
  const top = await cards.first().innerText();
  assert.ok(top.includes(best.title), `${top} is not ${best.title}`);
  await page
    .getByText(/ask why/i)
    .first()
    .waitFor();

  // A budget is an edge; sweeping the drawing looks at a part.
  const shown = async () =>
    figure((await page.getByTestId("shown").innerText()).split("of")[0]);
  const all = await shown();
  await page.getByLabel(/^Budget/).fill("7000");
  assert.ok((await shown()) < all);
  await page.getByLabel(/^Budget/).fill("");
  const field = page.getByTestId("advert-field").locator("svg");
  await field.scrollIntoViewIfNeeded();
  const at = await field.boundingBox();
  await page.mouse.move(at.x + at.width * 0.3, at.y + 20);
  await page.mouse.down();
  await page.mouse.move(at.x + at.width * 0.7, at.y + at.height - 60, {
    steps: 6,
  });
  await page.mouse.up();
  assert.ok((await shown()) < all);
  await page.getByRole("button", { name: "Show all again" }).click();
  assert.equal(await shown(), all);
  await page.getByLabel("Ranked by").selectOption("weights");
  await page.getByLabel("Cheap to run").fill("2");
  await fits();
  await page.getByLabel("Ranked by").selectOption("surplus");

  // Three to the yard, each with its questions; the list remembers them.
  const yard = async () => (await json(`${demo}/api/candidates`)).length;
  const stood = await yard();
  for (let k = 0; k < 3; k++) {
    await cards
      .getByRole("button", { name: "Take it to the yard" })
      .first()
      .click();
    await cards
      .getByRole("link", { name: "In the yard: open it" })
      .nth(k)
      .waitFor();
  }
  assert.equal(await yard(), stood + 3);
  await cards
    .first()
    .getByRole("button", { name: "Copy the questions" })
    .click();
  await cards.first().getByText("Copied").waitFor();
  const copied = await page.evaluate(() => navigator.clipboard.readText());
  assert.ok(copied.includes(best.ask[0]), copied);

  // A long list, pasted, can be left; what was judged stays.
  const words =
    "amber brick coral dune ember fjord glade heath inlet jetty".split(" ");
  const long = Array.from({ length: 30 }, (_, k) =>
    text.replaceAll("\n", ` ${words[k % 10]} ${words[(k * 7 + 3) % 10]}\n`),
  ).join("");
  await paste(long);
  await page.getByRole("button", { name: "Judge the list" }).click();
  await progress
    .getByText(/^[1-9]\d* of \d{3,4} judged/)
    .waitFor({ timeout: 60_000 });
  await page.getByRole("button", { name: "Cancel" }).click();
  await progress.getByText("cancelled").waitFor();

  // A table under its heading; a price in another currency waits for a rate, which is typed.
  const table = [
    "Title;Year;Mileage (km);Price",
    ...[4100, 4400, 4800, 5200].map(
      (price, k) =>
        `diesel van manual ${words[k]};${2014 + k};${150 - 10 * k} 000;${price}`,
    ),
    "diesel van manual dune;2016;120 000;€2 500",
  ].join("\n");
  await list_().fill(table);
  await page.getByRole("button", { name: "Judge the list" }).click();
  await progress.getByText("4 of 4 judged").waitFor();
  await progress.getByText(/lacks a rate for EUR/).waitFor();
  await page.getByLabel(/^One EUR in HSC/).fill("2");
  await page.getByRole("button", { name: "Judge the list" }).click();
  await progress.getByText("5 of 5 judged").waitFor();
  await cards.filter({ hasText: "dune" }).getByText("5 000").waitFor();
  await page.getByLabel("Ranked by").selectOption("blow");
  await fits();
  await paste(long);

  // It opens in the yard with the rest of the work before it; after a reload the list is as it was left.
  await page.reload();
  assert.equal(await list_().inputValue(), long);
  await page.goto(`${demo}/`);
  await page.getByText(best.title.slice(0, 20)).first().waitFor();

  // Before the yard's currency is known nothing is judged: what is judged in another cannot be taken there.
  const early = await (
    await browser.newContext({ serviceWorkers: "block" })
  ).newPage();
  let told;
  const held = new Promise((resolve) => (told = resolve));
  await early.route(/\/api\/settings$/, async (route) => {
    await held;
    await route.continue();
  });
  await early.goto(`${demo}/adverts`);
  await early
    .getByRole("textbox", { name: /^The list/ })
    .fill(text.split("\n")[0]);
  const judge = early.getByRole("button", { name: "Judge the list" });
  assert.ok(await judge.isDisabled());
  told();
  await judge.and(early.locator(":enabled")).waitFor();
  assert.deepEqual(page.thrown, []);
});
