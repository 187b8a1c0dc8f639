// The papers: the register asked, a line typed, a table pasted, a clock that fell, files, and what each moved.

import assert from "node:assert/strict";
import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { folder, json, main, openPage, percent, png } from "./browser.mjs";

const [, , demo, , w, h] = process.argv;
const width = Number(w);

await main(async (browser) => {
  const page = await openPage(browser, width, Number(h));
  await page
    .context()
    .grantPermissions(["clipboard-read", "clipboard-write"], { origin: demo });
  const yard = await json(`${demo}/api/candidates`);
  const idOf = (title) => yard.find((e) => e.summary.title === title).id;
  const id = idOf("North ferry relief van");
  const api = `${demo}/api/candidates/${id}`;
  const part = async (name) => {
    const back = page.getByRole("link", { name: "All the papers" });
    if (await back.isVisible()) await back.click();
    await page
      .getByRole("navigation", { name: "Parts of the papers" })
      .getByRole("link", { name })
      .click();
    // On a phone the part takes the list's place: only then the next step.
    if (width < 500) await back.waitFor();
  };
  const said = (text) => page.getByTestId("moved").filter({ hasText: text });

  // The register: asked by VIN, shown, taken in.
  await page.goto(`${demo}/c/${id}/papers`);
  await part("Provenance");
  await page.getByTestId("identity").getByText("check digit agrees").waitFor();
  const report = page.getByTestId("report");
  await page.getByRole("button", { name: "Ask the register" }).click();
  await report.getByText("Simulated").first().waitFor();
  await report.getByText("Nothing is marked").waitFor();
  await report.getByRole("button", { name: "Take it in" }).click();
  await said("13 papers, 3 were here already").waitFor();
  let view = await json(api);
  assert.equal(view.candidate.provenance.length, 11);
  const state = (item, name) =>
    page.getByTestId(`item-${item}`).getByRole("radio", { name });
  assert.equal(
    await state("stolen", "Clear").getAttribute("aria-checked"),
    "true",
  );

  // A finance marker opens the steps and raises a blocker; settled clears it.
  await state("finance", "Marked").click();
  await said("Finance: marked").waitFor();
  await page.getByTestId("item-finance").getByText("3 to 4 days").waitFor();
  view = await json(api);
  assert.ok(
    view.assessment.blockers.some(
      (g) => g.cause.kind === "provenance" && g.cause.item === "finance",
    ),
  );
  await state("finance", "Settled").click();
  await said("Finance: settled").getByText("a blocker cleared").waitFor();

  // A VIN typed wrong says which character, and where.
  await page.getByLabel("VIN, as on the vehicle").fill("HSBFM2K4OH1N13705");
  await page.getByRole("button", { name: "Keep", exact: true }).click();
  await page
    .getByTestId("identity")
    .getByText("Character 9 is “O”, which no VIN holds: is it a 0?")
    .waitFor();
  await page.getByTestId("take-back").click();
  await page.getByTestId("identity").getByText("check digit agrees").waitFor();

  // The campaign, proved: the blocker is cleared.
  await part("Tests and campaigns");
  await page
    .getByRole("radiogroup", { name: "Laminated belt in place of the first" })
    .getByRole("radio", { name: "Proved done" })
    .click();
  await said("proved done").waitFor();
  assert.deepEqual((await json(api)).assessment.blockers, []);

  // A line typed is read while it is typed, and says what it would move before it is entered.
  await part("Ledger");
  const line = page.getByLabel(/One line/);
  await line.fill("96500 2026-02 gear oil+pads itemised by Sound Garage");
  await page.getByTestId("would").getByText("Front pads and discs").waitFor();
  const would = await page.getByTestId("would").innerText();
  const before = await json(api);
  await page
    .getByRole("button", { name: "✓ Gear oil, as workshops advise" })
    .waitFor();
  await line.press("Enter");
  await said("gear oil+pads at 96").waitFor();
  const after = await json(api);
  const point = (v, p) => v.assessment.points.find((x) => x.at.point === p);
  const told = await page.getByTestId("moved").innerText();
  const chances = `${percent(point(before, "pads").p_plan)} → ${percent(point(after, "pads").p_plan)}`;
  assert.ok(
    told.includes(chances) && would.includes(chances),
    `${told} | ${would} | ${chances}`,
  );
  assert.ok(after.assessment.bill.mean < before.assessment.bill.mean - 50);
  assert.equal(await line.inputValue(), "");
  assert.ok(
    await line.evaluate((e) => e === document.activeElement),
    "ready for the next",
  );
  // What cannot be read is said, and kept.
  await line.fill("96500 04/03/2021 pads");
  await page.getByTestId("quick").getByText("can be read two ways").waitFor();
  assert.ok(await page.getByRole("button", { name: "Enter it" }).isDisabled());
  await part("Scheduled work");
  await part("Ledger");
  assert.equal(await line.inputValue(), "96500 04/03/2021 pads");
  await line.fill("");

  // A photo and a document that is none.
  const files = folder();
  writeFileSync(join(files, "invoice.png"), png(60));
  writeFileSync(join(files, "bill.pdf"), "this is no PDF");
  await page
    .getByTestId("ledger")
    .getByRole("button", { name: /gear oil\+pads/ })
    .click();
  await page
    .getByLabel("Photo or PDF")
    .setInputFiles([join(files, "invoice.png"), join(files, "bill.pdf")]);
  await page.getByRole("img", { name: "invoice.png" }).waitFor();
  await page.getByText("called a PDF and is none").waitFor();
  const shown = await page
    .getByRole("img", { name: "invoice.png" })
    .evaluate((i) => i.decode().then(() => i.naturalWidth));
  assert.equal(shown, 60);

  // Taken back and put in force again.
  await page.getByRole("button", { name: "Take it back" }).last().click();
  await said("taken back").waitFor();
  assert.equal(
    (await json(api)).assessment.bill.mean,
    before.assessment.bill.mean,
  );
  await page.getByTestId("take-back").click();
  await said("In force again.").waitFor();
  assert.deepEqual((await json(api)).assessment, after.assessment);

  // A table with a wrong line is reported by line and stores nothing; mended, it is stored whole.
  await page.getByText("Paste a table of entries").click();
  const table = page.getByLabel("Table of ledger entries");
  await table.fill(
    "date;km;what;evidence\n2026-03-02;97000;wiper blades;invoice\n2026-13-02;97001;oil and filter;invoice\n",
  );
  await page.getByRole("button", { name: "Read it" }).click();
  await page.getByTestId("table-report").getByText("line 3, date:").waitFor();
  assert.equal(await page.getByRole("button", { name: /^Store / }).count(), 0);
  await table.fill(
    "date;km;what;evidence\n2026-03-02;97000;wiper blades;invoice\n2026-03-03;97001;oil and filter;invoice\n",
  );
  await page.getByRole("button", { name: "Read it" }).click();
  await page.getByRole("button", { name: "Store 2 lines" }).click();
  await said("2 lines stored").waitFor();
  assert.equal(
    (await json(api)).candidate.ledger.length,
    after.candidate.ledger.length + 2,
  );

  // Scheduled work says what the API says.
  await part("Scheduled work");
  const due = (await json(api)).assessment.due;
  const work = await page.getByTestId("work").innerText();
  for (const d of due) {
    assert.ok(work.includes(d.name), d.name);
    assert.ok(
      work.includes(percent(d.chance_done)),
      `${d.name}: ${percent(d.chance_done)}`,
    );
  }

  // How it was kept: a figure of one's own, with its reason, and back.
  await part("How it was kept");
  const index = (await json(api)).assessment.care.index.index;
  await page
    .getByRole("button", { name: "My own figure: What the owner can see" })
    .click();
  await page.getByLabel("Percent").fill("10");
  const keep = page.getByRole("button", { name: "Keep", exact: true });
  assert.ok(await keep.isDisabled(), "no figure without its reason");
  await page.getByLabel("Why").fill("sludge under the cap");
  await keep.click();
  await said("your own 10").waitFor();
  assert.ok((await json(api)).assessment.care.index.index < index);
  await page.getByTestId("take-back").click();
  await said("Put back").waitFor();
  assert.equal((await json(api)).assessment.care.index.index, index);
  await page.getByRole("radio", { name: "The stamped book" }).click();
  await said("The stamped book weighs more").waitFor();

  // The questions, ready to copy.
  await part("Ask the seller");
  await page
    .getByTestId("questions")
    .getByText("Ever renewed:")
    .first()
    .waitFor();
  await page.getByRole("button", { name: /^Copy \d+ question/ }).click();
  await page.getByText("Copied.").waitFor();
  const copied = await page.evaluate(() => navigator.clipboard.readText());
  assert.ok(copied.includes("1. ") && copied.includes("invoice"), copied);

  // A clock that fell: marked, explained, and judged at what the person believes.
  const fallen = idOf("Repainted Ferryman");
  await page.goto(`${demo}/c/${fallen}/papers/clock`);
  await page
    .getByTestId("anomalies")
    .getByText("The clock shows less than before")
    .waitFor();
  const odometer = async () =>
    (await json(`${demo}/api/candidates/${fallen}`)).assessment.odometer;
  const first = await odometer();
  assert.ok(first.usage > first.shown && first.high > first.usage);
  await page.getByLabel("A figure of my own").check();
  await page.getByLabel("Usage today, km").fill("110 000");
  await page.getByLabel("Why").fill("the earlier owner says so");
  await page.getByRole("button", { name: /Judge at 110/ }).click();
  await said("judged at 110").waitFor();
  const believed = await odometer();
  assert.equal(believed.usage, 110000);
  await page.getByTestId("take-back").click();
  await said("Put back").waitFor();
  assert.equal((await odometer()).usage, first.usage);

  // Nothing runs out of the page sideways, on any part.
  for (const p of [
    "",
    "/ask",
    "/provenance",
    "/clock",
    "/ledger",
    "/work",
    "/tests",
    "/kept",
  ]) {
    await page.goto(`${demo}/c/${fallen}/papers${p}`);
    await page.locator("main").waitFor();
    await page.waitForLoadState("networkidle");
    const over = await page.evaluate(
      () =>
        document.documentElement.scrollWidth -
        document.documentElement.clientWidth,
    );
    assert.ok(over <= 0, `papers${p} is ${over} px too wide at ${width}`);
    if (width < 500) {
      const small = await page.evaluate(() =>
        [
          ...document.querySelectorAll(
            "button, nav a, select, summary, input:not([type=checkbox]):not([type=radio]):not([type=file])",
          ),
        ]
          .filter(
            (e) =>
              e.checkVisibility() && e.getBoundingClientRect().height < 43.5,
          )
          .map((e) => e.textContent || e.getAttribute("aria-label")),
      );
      assert.deepEqual(small, [], `touch targets on papers${p}`);
    }
  }
  assert.deepEqual(page.thrown, []);
});
