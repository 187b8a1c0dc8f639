// The first real candidate: what the yard counts in, the advert pasted, a workshop's quote that serves a second one,
// and what it should still fetch.

import assert from "node:assert/strict";
import { json, main, openPage } from "./browser.mjs";

const [, , demo, , w, h] = process.argv;
const width = Number(w);

await main(async (browser) => {
  const page = await openPage(browser, width, Number(h));
  const until = async (path, good) => {
    for (let i = 0; i < 50; i++) {
      const got = await json(`${demo}${path}`);
      if (good(got)) return got;
      await page.waitForTimeout(200);
    }
    throw new Error(`${path} never came to what it should`);
  };

  // Asked once, with nothing of the demo's filled in; the advert stays in sight.
  await page.goto(`${demo}/new`);
  const asks = page.getByRole("form", { name: "What you count in" });
  await asks.waitFor();
  assert.equal(await asks.getByLabel("Currency").inputValue(), "");
  assert.ok(
    await page.getByText("Paste the advert", { exact: true }).isVisible(),
  );
  await asks.getByLabel("Currency").fill("hs");
  await asks.getByText("Write its three letters").waitFor();
  await asks.getByLabel("Currency").fill("hsc");
  await asks.getByLabel("Road is counted in").selectOption("mi");
  await asks.getByText("Hourly rates, where you know them").click();
  await asks.getByLabel(/^An independent workshop/).fill("1,5,0");
  await asks.getByText("This is not a number.").waitFor();
  assert.ok(await asks.getByRole("button", { name: "Keep it" }).isDisabled());
  await asks.getByLabel(/^An independent workshop/).fill("62,50");
  await asks.getByRole("button", { name: "Keep it" }).click();
  await asks.waitFor({ state: "hidden" });
  const counts = await json(`${demo}/api/settings`);
  assert.deepEqual(
    [counts.currency, counts.unit, counts.rates],
    ["HSC", "mi", { independent: 62.5 }],
  );

  // The advert, as copied: figures into the fields, every other word into the note.
  await page.getByText("Paste the advert", { exact: true }).click();
  await page
    .getByRole("textbox", { name: /read into the form/ })
    .fill(
      "Ferryman for sale, first registered 05/2016\n74,500 miles, 6.900 HSC\nOne careful owner, pulls like a mule.",
    );
  await page.getByRole("button", { name: "Read it" }).click();
  await page.getByText(/^Read: asks/).waitFor();
  assert.equal(await page.getByLabel("Usage now").inputValue(), "74500");
  assert.equal(await page.getByLabel("Unit").inputValue(), "mi");
  assert.equal(await page.getByLabel(/Asking price/).inputValue(), "6900");
  assert.match(
    await page.getByLabel("Built, or first registered").inputValue(),
    /^2016-05/,
  );
  assert.ok(await page.getByRole("checkbox", { name: /Ferryman/ }).isChecked());
  const note = page.getByLabel("What the advert and the seller say");
  assert.match(await note.inputValue(), /pulls like a mule/);
  await page.getByLabel("What you call it").fill("Pasted one");
  await page.getByLabel("Years to keep it").fill("3");
  await page.getByLabel("Miles a year").fill("9000");
  await page.getByRole("button", { name: "Put it in the yard" }).click();
  await page.getByRole("heading", { name: "Road ahead" }).waitFor();
  const id = new URL(page.url()).pathname.split("/")[2];
  const api = `/api/candidates/${id}`;
  const before = await json(`${demo}${api}`);
  // The yard's own rate is what an hour costs.
  assert.equal(before.candidate.buyer.rates.independent, 62.5);

  // A quote takes the place of the sheet's estimate.
  const point = before.assessment.points.find(
    (p) => p.at.family === "ferryman" && p.expected_cost > 20,
  );
  const at = `${point.at.family}/${point.at.point}`;
  await page.goto(`${demo}/c/${id}/road/${at}`);
  await page.getByRole("button", { name: "A workshop quoted" }).click();
  await page.getByLabel(/^All in/).fill("2.345,50");
  await page.getByText(/^read as 2.345.5/).waitFor();
  await page.getByLabel("By whom").fill("Slipway garage");
  await page.getByRole("button", { name: "Take it in" }).click();
  await page.getByText(/Quoted 2.345\.5.* by Slipway garage/).waitFor();
  const quoted = await until(api, (v) => v.candidate.quotes?.length === 1);
  assert.equal(quoted.candidate.quotes[0].amount, 2345.5);
  assert.notEqual(quoted.assessment.bill.mean, before.assessment.bill.mean);

  // Another of the family may use it, and says where it comes from.
  const yard = await json(`${demo}/api/candidates`);
  const second = yard.find((e) =>
    e.summary.title.startsWith("Harbour office Ferryman"),
  );
  await page.goto(`${demo}/c/${second.id}/road/${at}`);
  await page.getByRole("button", { name: "A workshop quoted" }).waitFor();
  const other = await json(`${demo}/api/candidates/${second.id}`);
  const today = quoted.candidate.quotes[0].date;
  // The demo is judged on a day of its own: a quote of a later day is not lent backwards.
  assert.equal(
    await page.getByRole("button", { name: "Use it here" }).count(),
    other.candidate.as_of >= today ? 1 : 0,
  );
  const third = await page.request.post(`${demo}/api/candidates`, {
    data: { ...before.candidate, title: "A second one" },
  });
  const copy = (await third.json()).id;
  await page.goto(`${demo}/c/${copy}/road/${at}`);
  await page.getByText(/Slipway garage quoted .* for “Pasted one”/).waitFor();
  await page.getByRole("button", { name: "Use it here" }).click();
  await page.getByText(/Quoted 2.345\.5.* by Slipway garage/).waitFor();
  const lent = await until(
    `/api/candidates/${copy}`,
    (v) => v.candidate.quotes?.length === 1,
  );
  assert.equal(lent.assessment.bill.mean, quoted.assessment.bill.mean);
  assert.equal(lent.candidate.quotes[0].note, "Quoted for “Pasted one”");

  // What it should fetch is said where no advert tells it, and counts side by side.
  await page.goto(`${demo}/c/${id}/verdict/price`);
  const end = page.getByRole("region", { name: "At the end of the plan" });
  await end.getByText("is not known").waitFor();
  await end.getByLabel(/^What it should fetch/).fill("3 100");
  await end.getByRole("button", { name: "Take it in" }).click();
  await end.getByText(/still fetch 3.100, as you say/).waitFor();
  const known = await until(api, (v) => v.assessment.still_worth !== null);
  assert.equal(known.assessment.still_worth.at_end, 3100);
  assert.equal(known.assessment.value.limit, quoted.assessment.value.limit);
  assert.deepEqual(page.thrown, []);
});
