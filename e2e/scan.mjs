// Reading the codes: a good adapter, a slow one, one that breaks; kept, saved, read from a file; and the
// walk-round by keyboard alone.

import assert from "node:assert/strict";
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { folder, json, main, openPage, until } from "./browser.mjs";

const [, , demo] = process.argv;

async function scans(browser) {
  const page = await openPage(browser, 1280, 800);
  const yard = await json(`${demo}/api/candidates`);
  const { id } = yard.find((e) => e.summary.title.startsWith("North ferry"));
  const api = `${demo}/api/candidates/${id}`;
  await page.goto(`${demo}/c/${id}/walk-round`);
  await page.getByRole("link", { name: "Read the codes" }).click();
  const adapter = page.getByLabel("Adapter", { exact: true });
  const choose = async (words) => {
    const name = await adapter
      .locator("option", { hasText: words })
      .getAttribute("value");
    await adapter.selectOption(name);
  };
  const read = page.getByRole("button", { name: /^Read( again)?$/ });

  // One that breaks: it says so, and keeps what it had.
  await choose("a link that breaks");
  await read.click();
  await page.getByText("The scan did not run to its end").waitFor();
  await page.getByText("hung up in the middle").waitFor();
  await page.getByTestId("read").getByText("P0016").waitFor();
  await page.getByText("the link had failed before").waitFor();
  await page.getByRole("button", { name: "Let it go" }).click();
  assert.equal(await page.getByTestId("read").count(), 0);

  // A slow one shows what it is doing.
  await choose("a slow link");
  await read.click();
  await page
    .getByRole("status")
    .getByText(/Reading .* \(\d+ of 14\)/)
    .waitFor();
  await page
    .getByText("What it says of the checks")
    .waitFor({ timeout: 30_000 });
  assert.equal(await page.getByText("did not run to its end").count(), 0);

  // A good one, kept: the verdict moves.
  await choose("plugged into the north ferry");
  await read.click();
  const said = page.getByRole("region", { name: "What the scan says" });
  await said.getByText("stored, telling").waitFor();
  const before = await json(api);
  await said.getByLabel(/Fuel trims/).uncheck();
  const saved = page.waitForEvent("download");
  await said.getByRole("button", { name: "Save as CSV" }).click();
  const kept = join(folder(), "scan.csv");
  await (await saved).saveAs(kept);
  const table = readFileSync(kept, "utf8");
  assert.match(table, /^stored,,P0016,$/m);
  const keep = said.getByRole("button", {
    name: /^Keep it, enter \d+ findings/,
  });
  // As many as the button says; each look that the codes answer is one.
  const entered = Number((await keep.innerText()).match(/enter (\d+)/)[1]);
  assert.ok(entered >= 7, `${entered} findings`);
  await keep.click();
  await page
    .getByRole("status")
    .getByText("Kept, and its findings are entered")
    .waitFor();
  const count = before.candidate.findings.length + entered;
  const after = await until(api, (v) => v.candidate.findings.length === count);
  assert.equal(after.candidate.scans.length, 1);
  const findings = after.candidate.findings.slice(
    before.candidate.findings.length,
  );
  assert.ok(findings.every((f) => f.check !== "trims"));
  assert.ok(
    findings.some((f) => f.check === "codes" && f.note === "P0016 P0341"),
  );
  assert.ok(
    after.assessment.blockers.some((b) => b.cause.outcome === "commanded on"),
  );
  await page
    .getByRole("region", { name: "Scans kept" })
    .getByText("1 stored, 1 pending")
    .waitFor();

  // From a file: one with slips takes nothing and names the lines; a good one reads the same.
  const file = page.locator('input[type="file"]');
  const dir = folder();
  writeFileSync(join(dir, "bad.csv"), "what,value\nstored,P9999\nlamp,dim\n");
  await file.setInputFiles(join(dir, "bad.csv"));
  await page.getByRole("alert").getByText("line 2, value").waitFor();
  await page.getByRole("alert").getByText("line 3, value").waitFor();
  writeFileSync(join(dir, "good.csv"), table);
  await file.setInputFiles(join(dir, "good.csv"));
  await said.getByText("stored, telling").waitFor();
  await said.getByRole("button", { name: "Let it go" }).click();

  // Taken back, it is gone from the list.
  await page.getByText("1 stored, 1 pending").click();
  await page.getByRole("button", { name: "Take it back" }).click();
  await page
    .getByRole("region", { name: "Scans kept" })
    .waitFor({ state: "detached" });

  // An engine with nothing to plug into is told in a sentence.
  const engine = yard.find((e) => e.summary.title.startsWith("Kittiwake"));
  await page.goto(`${demo}/c/${engine.id}/walk-round/scan`);
  await read.click();
  await page
    .getByRole("alert")
    .getByText("cannot reach the control unit")
    .waitFor();
  assert.deepEqual(page.thrown, []);
  await page.context().close();
}

async function byKeyboard(browser) {
  const page = await openPage(browser, 1280, 800);
  const yard = await json(`${demo}/api/candidates`);
  const { id } = yard.find((e) => e.summary.title.startsWith("Long-haul"));
  const api = `${demo}/api/candidates/${id}`;
  await page.goto(`${demo}/c/${id}/walk-round`);
  await page.getByTestId("done").waitFor();
  const press = (k) => page.keyboard.press(k);
  const current = () =>
    page.evaluate(() =>
      document
        .querySelector('[id^="check-"][aria-expanded="true"]')
        ?.id.slice(6),
    );
  // Up to the first, then down through every check: the first outcome each, cautions read on the way.
  for (
    let at = await current(), was;
    at !== was;
    was = at, at = await current()
  )
    await press("ArrowUp");
  const before = (await json(api)).assessment.checks_done;
  let cautions = 0;
  for (let n = 0; n < 45 && cautions < 2; n++) {
    const key = await current();
    const done = page.locator(`[id="check-${key}"]`);
    await press("1");
    const read = page.locator(`[id="read-${key}"]`);
    if ((await read.count()) > 0) {
      await page.waitForFunction(
        (id) => document.activeElement?.id === id,
        `read-${key}`,
      );
      await press("Enter");
      await read.waitFor({ state: "detached" });
      await press("1");
      cautions += 1;
    }
    await done.locator("b").waitFor();
    if (cautions < 2) await press("ArrowDown");
  }
  assert.ok(cautions >= 1, "something on the way can injure");
  await page.waitForFunction(
    () => document.querySelector('[data-testid="waiting"]') === null,
  );
  await until(api, (v) => v.assessment.checks_done >= before + 10);
  const key = await current();
  await press("n");
  await page.keyboard.type("crack at the edge");
  await press("Tab");
  await page.evaluate(() => document.activeElement?.blur());
  await press("2");
  await until(api, (v) => {
    const f = v.candidate.findings.at(-1);
    return (
      `${f.family}/${f.check}` === key &&
      f.note === "crack at the edge" &&
      f.result.outcome === 1
    );
  });
  await press("u");
  await until(api, (v) => v.candidate.findings.at(-1).undone);
  await press("c");
  await page.getByRole("heading", { name: "Read the codes" }).waitFor();
  await page.getByLabel("Adapter", { exact: true }).focus();
  await press("Tab");
  await press("Enter");
  await page.getByText("What it says of the checks").waitFor();
  assert.deepEqual(page.thrown, []);
  await page.context().close();
}

await main(async (browser) => {
  await scans(browser);
  await byKeyboard(browser);
});
