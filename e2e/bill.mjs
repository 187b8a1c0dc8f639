// The bill as it may turn out: what the screen says is what the API says, and sliders answer.

import assert from "node:assert/strict";
import { json, main, openPage, until } from "./browser.mjs";

const [, , demo, , w, h] = process.argv;

/** Money as the screen writes it: two significant figures. */
function money(amount) {
  const step = Math.max(1, 10 ** (Math.floor(Math.log10(amount)) - 1));
  return String(Math.round(amount / step) * step).replace(
    /\B(?=(\d{3})+$)/g,
    "\u202f",
  );
}

await main(async (browser) => {
  const page = await openPage(browser, Number(w), Number(h));
  const yard = await json(`${demo}/api/candidates`);
  const { id } = yard.find((e) => e.summary.title.startsWith("Harbour"));
  const api = `${demo}/api/candidates/${id}`;
  const ask = async (candidate) =>
    (
      await fetch(`${demo}/api/assess/bill`, {
        method: "POST",
        headers: { "content-type": "application/json" },
        body: JSON.stringify(candidate),
      })
    ).json();
  const { candidate, assessment } = await json(api);
  const spread = await ask(candidate);
  // One bill: what the futures are drawn for is the bill that the limit price goes by.
  assert.ok(
    Math.abs(spread.expected - assessment.bill.mean) <
      1e-6 * assessment.bill.mean,
  );
  assert.ok(Math.abs(spread.mean - spread.expected) <= 4 * spread.error);
  await page.goto(`${demo}/c/${id}/road`);
  await page.getByRole("link", { name: "Bill", exact: true }).click();
  const words = page.getByTestId("bill-words");
  await words.getByText(money(spread.p90), { exact: true }).waitFor();
  for (const figure of [spread.expected, spread.p10, spread.cvar90])
    assert.ok((await words.innerText()).includes(money(figure)), figure);
  assert.equal(
    await page
      .getByRole("list", { name: /Money by year/ })
      .locator("li")
      .count(),
    spread.years.length,
  );

  // Three policies, each with its sum; another one moves the whole bill, and what is done at purchase.
  for (const s of spread.purchase_plan.policies)
    await page
      .getByRole("radiogroup", { name: "When parts are renewed" })
      .getByText(money(s.expected), { exact: true })
      .first()
      .waitFor();
  const sheet = page.getByRole("region", { name: "What to do" });
  const bundles = sheet.getByTestId("bundle");
  assert.equal(await bundles.count(), spread.purchase_plan.bundles.length);
  const front = await ask({
    ...candidate,
    purchase_plan: { policy: "up_front", own: [] },
  });
  await sheet.getByRole("radio", { name: /Renew up front/ }).click();
  await page.getByTestId("trial").getByText("renew up front").waitFor();
  await words.getByText(money(front.mean), { exact: true }).waitFor();
  await page.waitForFunction(
    (n) => document.querySelectorAll("[data-testid=bundle]").length === n,
    front.purchase_plan.bundles.length,
  );
  // What is apart is shown with what it saves; a job can be left, and freed again.
  const shared = front.purchase_plan.bundles.find((b) => b.jobs.length > 1);
  const apart = bundles.filter({ hasText: "While it is apart" }).first();
  await apart
    .getByText(`together ${money(shared.apart - shared.together)} less`)
    .waitFor();
  const job = shared.jobs.find((j) => j.at.kind === "point");
  await apart
    .getByRole("button", { name: `Leave ${job.name}`, exact: true })
    .click();
  await page.getByTestId("trial").getByText("1 point decided by you").waitFor();
  await apart
    .getByRole("button", { name: `Leave ${job.name}`, exact: true })
    .waitFor({ state: "detached" });
  await sheet.getByRole("button", { name: /Let the policy decide/ }).click();
  await apart
    .getByRole("button", { name: `Leave ${job.name}`, exact: true })
    .waitFor();
  await apart.getByRole("button", { name: "Fix it as it stands" }).click();
  await apart
    .getByRole("button", { name: "Let the policy decide again" })
    .waitFor();
  await page.getByRole("button", { name: "Put back" }).click();
  await words.getByText(money(spread.expected), { exact: true }).waitFor();

  // Appetite moves the limit price by what it holds back.
  await page.getByRole("radio", { name: "careful" }).click();
  await page.getByTestId("trial").getByText("careful about bad luck").waitFor();
  const careful = await (
    await fetch(`${demo}/api/assess`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({
        ...candidate,
        buyer: { ...candidate.buyer, appetite: "careful" },
      }),
    })
  ).json();
  assert.ok(careful.value.limit < assessment.value.limit);
  await page
    .getByTestId("limit")
    .filter({ hasText: money(careful.value.limit), visible: true })
    .waitFor();
  await page.getByRole("button", { name: "Put back" }).click();

  // A reserve: how often it is enough is told, and nothing is stored until it is kept.
  const reserve = Math.round(spread.p50 / 100) * 100;
  await page.getByLabel("Put by for it").fill(String(reserve));
  await words
    .getByText(/of 10 futures/)
    .last()
    .waitFor();
  const tried = {
    ...candidate,
    buyer: { ...candidate.buyer, reserve },
  };
  const told = (await ask(tried)).reserve_holds;
  assert.ok(Math.abs(told - 0.5) < 0.06, `${told}`);
  await words
    .getByText(`${Math.round(told * 10)} of 10 futures`, { exact: true })
    .waitFor();
  assert.equal((await json(api)).candidate.buyer.reserve, undefined);

  // Other plans answer at once; luck is the same, so more years never cost less.
  await page.getByLabel("Years you keep it").fill("6");
  await page
    .getByRole("list", { name: /Money by year/ })
    .locator("li")
    .nth(5)
    .waitFor();
  await page.getByLabel("Work by").selectOption("self");
  await page.getByTestId("trial").getByText("6 years").waitFor();
  await page.getByTestId("trial").getByText("work by yourself").waitFor();
  const six = await ask({ ...tried, plan: { ...candidate.plan, years: 6 } });
  assert.ok(six.mean > spread.mean && six.p90 > spread.p90);
  await page.getByRole("button", { name: "Keep" }).click();
  await page.getByTestId("trial").waitFor({ state: "detached" });
  const kept = await until(api, (v) => v.candidate.plan.years === 6);
  assert.deepEqual(
    [kept.candidate.buyer.reserve, kept.candidate.buyer.labour],
    [reserve, "self"],
  );

  // What makes the dearest tenth dear leads to its point.
  await page
    .getByRole("region", { name: /dearest tenth/ })
    .getByRole("link")
    .first()
    .click();
  await page.getByRole("heading", { level: 1 }).first().waitFor();
  const over = await page.evaluate(
    () =>
      document.documentElement.scrollWidth -
      document.documentElement.clientWidth,
  );
  assert.ok(over <= 0, `${over} px too wide`);
  assert.deepEqual(page.thrown, []);
});
