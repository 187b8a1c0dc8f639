// The walk-round as planned: the time there is, what is left out and why, one look for several sheets.

import assert from "node:assert/strict";
import { json, main, openPage, until } from "./browser.mjs";

const [, , demo, , w, h] = process.argv;

await main(async (browser) => {
  const page = await openPage(browser, Number(w), Number(h));
  const yard = await json(`${demo}/api/candidates`);
  const { id } = yard.find((e) => e.summary.title.startsWith("North ferry"));
  const api = `${demo}/api/candidates/${id}`;
  const walk = async () => (await json(api)).assessment.walk;
  const left = page.getByTestId("left-out");
  await page.goto(`${demo}/c/${id}/walk-round`);
  const all = await walk();
  assert.ok(
    all.actions.every(
      (a) => a.chosen || ["no_longer_cold", "not_its_fee"].includes(a.left_out),
    ),
  );

  // One look under it tells what two sheets ask for.
  const under = all.actions.find(
    (a) => a.phase === "underneath" && a.checks.length > 1,
  );
  assert.deepEqual(
    under.checks.map((c) => c.check),
    ["underside", "bell"],
  );
  await page
    .getByText("One look tells 2 things; 15 min in all")
    .first()
    .waitFor();

  // Twenty minutes: the screen shows what is chosen, and what is left out with the reason.
  await page.getByRole("button", { name: "20 min", exact: true }).click();
  await page.getByTestId("time-left").getByText("left of your").waitFor();
  await left.getByText("more telling ones take the time").first().waitFor();
  const short = await walk();
  const planned = (a) =>
    a.chosen && !a.done && !["before_travel", "papers"].includes(a.phase);
  const minutes = short.actions
    .filter(planned)
    .reduce((sum, a) => sum + a.minutes, 0);
  assert.ok(minutes <= 20 && Math.abs(minutes - short.left) < 1e-9);
  for (const a of short.actions) {
    for (const c of a.checks) {
      assert.equal(
        await page.locator(`[id="check-${c.family}/${c.check}"]`).count(),
        a.chosen ? 1 : 0,
        `${c.family}/${c.check}`,
      );
    }
  }

  // Somebody wants one of them all the same, and not another.
  const wanted = short.actions.find((a) => a.left_out === "no_time");
  await left
    .getByRole("listitem")
    .filter({ hasText: "more telling ones" })
    .first()
    .getByRole("button", { name: "Put it in" })
    .click();
  await page
    .locator(
      `[id="check-${wanted.checks[0].family}/${wanted.checks[0].check}"]`,
    )
    .waitFor();
  const chosen = (await walk()).actions.find(
    (a) => planned(a) && a.key !== wanted.key && a.checks.length === 1,
  );
  const card = page.locator(`[id="check-${chosen.key}"]`);
  if ((await card.getAttribute("aria-expanded")) !== "true") await card.click();
  // Each outcome says how likely it is, and what it would do.
  const effects = chosen.checks[0].outcomes;
  const buttons = await page
    .getByRole("group", { name: /^Outcome of/ })
    .innerText();
  assert.equal(buttons.match(/likely: /g).length, effects.length, buttons);
  await page.getByRole("button", { name: "Leave it out" }).click();
  await left.getByText("left out by you").waitFor();
  assert.equal(await card.count(), 0);

  // A lift that is not there; minutes of one's own; all of it again.
  await page.getByRole("button", { name: "All it takes" }).click();
  await page.getByLabel("No lift, no stands").check();
  await left
    .getByText("needs a lift, or stands on firm ground")
    .first()
    .waitFor();
  await page.getByLabel("Own minutes").fill("many");
  assert.ok(
    await page.getByRole("button", { name: "min", exact: true }).isDisabled(),
  );
  await page.getByLabel("Own minutes").fill("33,5");
  await page.getByRole("button", { name: "min", exact: true }).click();
  await page
    .getByTestId("time-left")
    .getByText(/left of your/)
    .waitFor();
  await until(api, (v) => v.assessment.walk.budget === 33.5);
  const own = await walk();
  assert.ok(own.left <= 33.5);
  assert.ok(own.actions.every((a) => !(a.phase === "underneath" && a.chosen)));

  // What is entered still counts, and the plan follows.
  const first = own.actions.find((a) => planned(a) && a.checks.length === 1);
  const open = page.locator(`[id="check-${first.key}"]`);
  if ((await open.getAttribute("aria-expanded")) !== "true") await open.click();
  const done = await page.getByTestId("done").innerText();
  await page
    .getByRole("group", { name: /^Outcome of/ })
    .getByRole("button")
    .first()
    .click();
  await page.waitForFunction(
    (d) => document.querySelector('[data-testid="done"]')?.textContent !== d,
    done,
  );
  assert.ok((await walk()).actions.find((a) => a.key === first.key).done);
  const over = await page.evaluate(
    () =>
      document.documentElement.scrollWidth -
      document.documentElement.clientWidth,
  );
  assert.ok(over <= 0, `${over} px too wide`);
  assert.deepEqual(page.thrown, []);
});
