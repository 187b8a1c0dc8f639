// The person's path: yard, new candidate, road ahead, findings, reload, export, import elsewhere.

import assert from "node:assert/strict";
import { join } from "node:path";
import {
  folder,
  json,
  main,
  openPage,
  percent,
  readCaution,
} from "./browser.mjs";

const [, , demo, empty, w, h] = process.argv;
const width = Number(w);
const phone = width < 500;

await main(async (browser) => {
  const page = await openPage(browser, width, Number(h));

  // The yard: eight candidates, each with its road and verdict.
  await page.goto(demo);
  const yard = await json(`${demo}/api/candidates`);
  assert.equal(yard.length, 9);
  for (const entry of yard) {
    await page.getByRole("link", { name: entry.summary.title }).waitFor();
  }
  assert.equal(
    await page.getByRole("img", { name: /driven, built/ }).count(),
    9,
  );
  for (const word of [
    "Buy at asking",
    "Negotiate to",
    "Not yet",
    "Walk away",
  ]) {
    await page.getByText(word).first().waitFor();
  }

  // A new candidate: a first assessment appears before anything is stored.
  await page.getByRole("link", { name: "New candidate" }).click();
  await page
    .getByLabel("What you call it")
    .fill("White one at the ferry landing");
  await page.getByRole("checkbox", { name: /BK4/ }).check();
  await page.getByRole("checkbox", { name: /nine-seat body/ }).check();
  await page.getByLabel("Usage now").fill("98 000");
  await page.getByLabel("Built, or first registered").fill("2017-03-01");
  await page.getByLabel(/Asking price/).fill("9200");
  await page.getByLabel("Years to keep it").fill("3");
  await page.getByLabel("Kilometres a year").fill("15000");
  await page.getByLabel("Plastic side skirts").selectOption("yes");
  await page.getByTestId("preview").getByText("Timing belt in oil").waitFor();
  assert.equal((await json(`${demo}/api/candidates`)).length, 9);
  await page.getByRole("button", { name: "Put it in the yard" }).click();
  await page.getByRole("heading", { name: "Road ahead" }).waitFor();
  const id = new URL(page.url()).pathname.split("/")[2];
  const api = `${demo}/api/candidates/${id}`;

  // The road ahead shows what the API says, for every point.
  const first = await json(api);
  assert.equal(first.candidate.usage.value, 98000);
  for (const p of first.assessment.points) {
    const row = page.locator(`[id="${p.at.family}/${p.at.point}"]`);
    await row.scrollIntoViewIfNeeded();
    // What has just come near is drawn with the next frame.
    await page
      .waitForFunction(
        ([at, chance]) =>
          document.getElementById(at)?.innerText.includes(chance),
        [`${p.at.family}/${p.at.point}`, percent(p.p_plan)],
        { timeout: 5000 },
      )
      .catch(async () =>
        assert.fail(
          `${p.name}: ${await row.innerText()} against ${percent(p.p_plan)}`,
        ),
      );
  }
  const belt = page.locator('[id="bk4/wet-belt"]');
  await belt.click();
  await page
    .getByRole("heading", { name: /Why .* for timing belt in oil/ })
    .waitFor();
  const steps = await page
    .getByRole("list", { name: "How the chance came about" })
    .first()
    .innerText();
  const why = first.assessment.points.find(
    (p) => p.at.point === "wet-belt",
  ).why;
  assert.ok(
    steps.includes(percent(why[0].chance)),
    `${steps} against ${percent(why[0].chance)}`,
  );

  // Filters keep what they say.
  await page.getByRole("button", { name: /Can end the engine/ }).click();
  const ends = first.assessment.points.filter((p) => p.ends_engine).length;
  assert.equal(await page.locator("main section > ul > li").count(), ends);

  // Findings move the chances, the bill and the verdict.
  await page.getByRole("link", { name: "Walk-round" }).click();
  const tap = async (check, outcome) => {
    const card = page.locator(`[id="check-${check}"]`);
    if ((await card.getAttribute("aria-expanded")) !== "true")
      await card.click();
    await readCaution(page, check);
    const before = await page.getByTestId("done").innerText();
    await page.getByRole("button", { name: outcome }).click();
    await page.waitForFunction(
      (b) => document.querySelector('[data-testid="done"]')?.textContent !== b,
      before,
    );
  };
  const limits = [await page.getByTestId("limit").first().innerText()];
  await tap("bk4/filler-gauze", /crumbs or flakes/);
  await page.getByText("What that moved").locator("visible=true").waitFor();
  limits.push(await page.getByTestId("limit").first().innerText());
  assert.notEqual(limits[0], limits[1]);
  await tap("ferryman/sill-tap", /soft or holed/);
  await tap("bk4/cold-start", /quiet at once/);
  const after = await json(api);
  assert.equal(after.assessment.checks_done, 3);
  const chance = (view, point) =>
    view.assessment.points.find((p) => p.at.point === point).p_plan;
  assert.ok(chance(after, "wet-belt") > chance(first, "wet-belt"));
  assert.ok(chance(after, "sills") > 0.8);
  assert.ok(chance(after, "phaser") < chance(first, "phaser"));
  assert.ok(after.assessment.bill.mean > first.assessment.bill.mean + 500);

  // A reading becomes an outcome by the check's own bands.
  const width2 = page.locator('[id="check-bk4/belt-width"]');
  if ((await width2.getAttribute("aria-expanded")) !== "true")
    await width2.click();
  await page.getByLabel("belt width", { exact: true }).fill("20,6");
  await page.getByRole("button", { name: "Enter reading" }).click();
  await page.waitForFunction(
    () => document.querySelector('[data-testid="done"]')?.textContent === "4",
  );
  const read = (await json(api)).candidate.findings.at(-1);
  assert.deepEqual([read.reading, read.result.kind], [20.6, "measured"]);
  const banded = (await json(api)).checks.find(
    (c) => c.check.id === "belt-width",
  );
  assert.equal(banded.outcome, 1, "the core makes the outcome of the reading");
  await page.getByRole("button", { name: "drags", pressed: true }).waitFor();

  // Taking it back puts everything back, and keeps it.
  await page.getByRole("button", { name: /Take back: Belt width/ }).click();
  await page.waitForFunction(
    () => document.querySelector('[data-testid="done"]')?.textContent === "3",
  );
  const back = await json(api);
  assert.deepEqual(back.assessment, after.assessment);
  assert.equal(back.candidate.findings.at(-1).undone, true);

  // Reload: all of it is still there.
  await page.reload();
  assert.equal(await page.getByTestId("done").innerText(), "3");
  await page
    .getByRole("link", { name: "Verdict", exact: true })
    .first()
    .click();
  const verdict = await page.getByTestId("verdict").innerText();
  assert.ok(verdict.length > 3);

  // Export; import into an empty database: the same assessment, to the digit.
  const waiting = page.waitForEvent("download");
  await page.getByRole("link", { name: "Candidate and sheets" }).click();
  const file = join(folder(), "candidate.json");
  await (await waiting).saveAs(file);
  await page.goto(empty);
  await page.getByText("The yard is empty").waitFor();
  await page.getByLabel("File to import").setInputFiles(file);
  await page.getByRole("heading", { name: "Road ahead" }).waitFor();
  const copy = new URL(page.url()).pathname.split("/")[2];
  const imported = await json(`${empty}/api/candidates/${copy}`);
  assert.deepEqual(imported.assessment, back.assessment);
  await page
    .getByRole("link", { name: "Verdict", exact: true })
    .first()
    .click();
  assert.equal(await page.getByTestId("verdict").innerText(), verdict);

  // Nothing runs out of the page sideways, on any screen.
  for (const screen of ["advert", "papers", "walk-round", "road", "verdict"]) {
    await page.goto(`${empty}/c/${copy}/${screen}`);
    await page.locator("main").waitFor();
    const over = await page.evaluate(
      () =>
        document.documentElement.scrollWidth -
        document.documentElement.clientWidth,
    );
    assert.ok(over <= 0, `${screen} is ${over} px too wide at ${width}`);
  }
  if (phone) {
    const small = await page.evaluate(() =>
      [
        ...document.querySelectorAll(
          "button, nav a, select, input:not([type=checkbox])",
        ),
      ]
        .filter(
          (e) =>
            e.checkVisibility() &&
            e.getBoundingClientRect().height > 1 &&
            e.getBoundingClientRect().height < 43.5,
        )
        .map((e) => e.textContent || e.getAttribute("aria-label")),
    );
    assert.deepEqual(small, [], "touch targets are at least 44 px high");
  }
  assert.deepEqual(page.thrown, []);
});
