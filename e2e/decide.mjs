// From the limit price to what happens after: adverts, the line, the offer, candidates side by side, the report on
// paper, what leaves as files, and the calendar after buying. What is shown is what the API says.

import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { existsSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { folder, json, main, openPage, png, until } from "./browser.mjs";

const [, , demo, , w, h] = process.argv;
const width = Number(w);
const money = (x) => {
  const step = Math.max(1, 10 ** (Math.floor(Math.log10(Math.abs(x))) - 1));
  return String(Math.round(x / step) * step).replace(
    /\B(?=(\d{3})+$)/g,
    "\u202f",
  );
};
const whole = (x) => String(x).replace(/\B(?=(\d{3})+$)/g, "\u202f");

await main(async (browser) => {
  const page = await openPage(browser, width, Number(h));
  await page
    .context()
    .grantPermissions(["clipboard-read", "clipboard-write"], { origin: demo });
  const fits = async () => {
    const over = await page.evaluate(
      () =>
        document.documentElement.scrollWidth -
        document.documentElement.clientWidth,
    );
    assert.ok(over <= 0, `${page.url()}: ${over} px too wide`);
  };
  const yard = await json(`${demo}/api/candidates`);
  const idOf = (start) =>
    yard.find((e) => e.summary.title.startsWith(start)).id;
  const id = idOf("Harbour");
  const api = `${demo}/api/candidates/${id}`;
  const parts = page.getByRole("navigation", { name: "Parts of the verdict" });

  // The offer: lines that add up to the gap, copied as a message.
  await page.goto(`${demo}/c/${id}/verdict`);
  let { assessment: a, candidate } = await json(api);
  const offer = page.getByTestId("offer");
  await offer.getByText(whole(a.offer.open), { exact: true }).first().waitFor();
  const shown = await offer
    .locator("tbody td")
    .evaluateAll((cells) =>
      cells.map((c) =>
        Number(c.textContent.replace(/\s/g, "").replace("−", "-")),
      ),
    );
  assert.deepEqual(
    shown,
    a.offer.lines.map((l) => l.amount),
  );
  assert.equal(
    shown.reduce((x, y) => x + y, 0),
    a.offer.gap,
  );
  await offer.getByRole("button", { name: "Copy as a message" }).click();
  await offer.getByRole("status").getByText("Copied").waitFor();
  const message = await page.evaluate(() => navigator.clipboard.readText());
  assert.ok(message.includes(`My offer: ${whole(a.offer.open)}`), message);
  assert.ok(!message.includes("bad luck"), "a limit is not given away");
  await fits();

  // What it is worth: an advert typed moves the line; taken out, all is as before.
  await parts.getByRole("link", { name: "What it is worth" }).click();
  const sum = page.getByTestId("limit-sum");
  await sum.getByText(money(a.value.limit), { exact: true }).waitFor();
  await sum
    .getByText(/Room for bad luck: \d+ % \((bold|even|careful)\)/)
    .waitFor();
  await sum.getByText("Room left for bad luck by").waitFor();
  const list = page.getByRole("list", { name: "Comparables" });
  const before = candidate.comparables.length;
  assert.equal(await list.locator("li").count(), before);
  await page.getByLabel(/^Price,/).fill("nothing");
  await page.getByLabel(/^Usage,/).fill("121000");
  await page.getByRole("button", { name: "Add", exact: true }).click();
  await page.getByText("Price: an amount above 0, as 4200").waitFor();
  await page.getByLabel(/^Price,/).fill("9900");
  await page.getByRole("button", { name: "Add", exact: true }).click();
  await list.getByText("9\u202f900", { exact: true }).waitFor();
  let view = await until(
    api,
    (v) => v.candidate.comparables.length === before + 1,
  );
  assert.ok(view.assessment.value.reference.price > a.value.reference.price);
  // The set is one with three other candidates, and stays so.
  assert.equal(view.shares_comparables.length, 3);
  await sum
    .getByText(money(view.assessment.value.limit), { exact: true })
    .waitFor();
  await page.getByRole("button", { name: "Undo the last change" }).click();
  await until(api, (v) => v.candidate.comparables.length === before);

  // A table with a slip adds nothing; mended, it adds all.
  await page.getByText("A table of adverts").click();
  const csv = page.getByLabel("Table of adverts");
  await csv.fill("price;km;example\n8800;90000;typical\nfree;95000;typical\n");
  await page.getByRole("button", { name: "Read it" }).click();
  const report = page.getByTestId("comparables-report");
  await report.getByText("line 3, price:").waitFor();
  assert.equal(await report.getByRole("button", { name: /^Add/ }).count(), 0);
  await csv.fill(
    "price;km;example\n8800;90000;typical\n9400;95000;well-sorted\n",
  );
  await page.getByRole("button", { name: "Read it" }).click();
  await report.getByRole("button", { name: "Add 2" }).click();
  await until(api, (v) => v.candidate.comparables.length === before + 2);
  await fits();

  // The report: ready, printed to paper of both sizes, and read back from it.
  await parts.getByRole("link", { name: "Report" }).click();
  await page.locator("[data-testid=report-sheet][data-ready=true]").waitFor();
  await fits();
  ({ assessment: a } = await json(api));
  const out = folder();
  for (const format of ["A4", "Letter"]) {
    const file = join(out, `${format}.pdf`);
    await page.pdf({ path: file, format });
    const text = execFileSync("pdftotext", ["-layout", file, "-"], {
      encoding: "utf8",
    });
    const flat = text.replace(/\s+/g, " ");
    for (const piece of [
      {
        negotiate: "Negotiate to",
        buy: "Buy at asking",
        not_yet: "Not yet",
        walk_away: "Walk away",
      }[a.verdict.kind],
      "Speaks against it",
      "What was not checked",
      "Assumptions and cautions",
      "licensed technicians",
    ])
      assert.ok(flat.includes(piece), `${format}: no “${piece}”`);
    const first = text.split("\f")[0];
    assert.ok(first.includes("What would change it"), "one page says it all");
    assert.ok(!first.includes("Findings"), "what stands behind it comes after");
    assert.ok(!flat.includes("Copy as a message"), "keys stay off the paper");
    // Rendered, there is ink on every page, and no colour.
    execFileSync("pdftoppm", ["-r", "40", file, join(out, format)]);
    const pages = text.split("\f").length - 1;
    assert.ok(pages >= 2 && pages <= 3, `${pages} pages`);
    const digits = String(pages).length;
    for (let p = 1; p <= pages; p++) {
      const image = join(
        out,
        `${format}-${String(p).padStart(digits, "0")}.ppm`,
      );
      assert.ok(existsSync(image), image);
      const bytes = readFileSync(image);
      let header = 0;
      for (let lines = 0; lines < 3; header++)
        if (bytes[header] === 10) lines++;
      let dark = 0;
      let coloured = 0;
      for (let i = header; i + 2 < bytes.length; i += 3) {
        const [r, g, b] = [bytes[i], bytes[i + 1], bytes[i + 2]];
        if (r < 128) dark++;
        if (Math.max(r, g, b) - Math.min(r, g, b) > 40) coloured++;
      }
      assert.ok(dark > 50, `page ${p} of ${format} is empty`);
      assert.ok(coloured === 0, `${coloured} coloured dots on page ${p}`);
    }
  }

  // Two hundred photos: every one is in the report, and it still prints.
  if (width > 500) {
    const amiss = (await json(api)).checks.find((c) => c.outcome > 0);
    const to = `${api}/checks/${amiss.family}/${amiss.check.id}/photos`;
    for (let i = 0; i < 200; i++) {
      const name = crypto.randomUUID();
      const answer = await fetch(`${to}?id=${name}&name=photo-${i}.png`, {
        method: "POST",
        headers: { "content-type": "application/octet-stream" },
        body: png(24 + i),
      });
      assert.equal(answer.status, 201, await answer.text());
    }
    await page.goto(`${demo}/c/${id}/verdict/report`);
    await page.locator("[data-testid=report-sheet][data-ready=true]").waitFor();
    const images = page.getByTestId("report-sheet").locator("img");
    assert.equal(
      await images
        .evaluateAll((all) =>
          all.filter((i) => i.src.includes("/attachments/")),
        )
        .then((all) => all.length >= 200),
      true,
    );
    await page.waitForFunction(() =>
      [...document.images].every((i) => i.complete && i.naturalWidth > 0),
    );
    const file = join(out, "photos.pdf");
    await page.pdf({ path: file, format: "A4" });
    const inside = execFileSync("pdfimages", ["-list", file], {
      encoding: "utf8",
    });
    assert.ok(
      inside.split("\n").filter((l) => /\bimage\b/.test(l)).length >= 200,
      "every photo is on paper",
    );
  }

  // Side by side: chosen in the yard, under one plan, and the engine is not weighed against a van.
  await page.goto(demo);
  const pick = (title) =>
    page.getByRole("checkbox", { name: new RegExp(`Side by side.*${title}`) });
  assert.ok(
    await page
      .getByRole("button", { name: "Lay them side by side" })
      .isDisabled(),
  );
  for (const title of [
    "Quay Ferryman, one owner",
    "Harbour office Ferryman",
    "Kittiwake's engine",
  ])
    await pick(title).check();
  await page.getByRole("button", { name: "Lay 3 side by side" }).click();
  await page.getByTestId("turns").locator("li").first().waitFor();
  const ids = new URL(page.url()).searchParams.get("ids");
  const told = await json(`${demo}/api/compare?ids=${ids}`);
  const turn = told.comparison.turns[0];
  assert.equal(turn.kind, "cheap_turns_dear");
  await page
    .getByTestId("turns")
    .getByText(`costs more from year ${turn.year}: ${money(turn.by)} more`)
    .waitFor();
  await page.getByText("an engine by itself").waitFor();
  const table = page.getByRole("region", { name: /figure by figure/ });
  for (const s of told.comparison.sides)
    await table
      .getByRole("row", { name: /^True cost/ })
      .getByText(money(s.cost.total), { exact: true })
      .first()
      .waitFor();
  await fits();

  // After buying: the bill becomes a calendar, what was done closes its entry.
  await page.goto(`${demo}/c/${id}/verdict/after`);
  await page.getByLabel(/^Paid/).fill("4750");
  await page.getByRole("button", { name: "Mark as bought" }).click();
  await page.getByTestId("ending").getByText("4\u202f750").waitFor();
  view = await json(api);
  assert.equal(view.candidate.ending.price, 4750);
  const entries = page.getByTestId("entry-baseline");
  await entries.first().getByRole("button", { name: /^Log/ }).click();
  await page.getByLabel(/^Cost/).fill("930");
  await page.getByRole("button", { name: "Log it" }).click();
  await entries.first().getByText("Done").waitFor();
  view = await until(api, (v) => v.candidate.log?.length === 1);
  assert.equal(view.candidate.log[0].cost, 930);
  await page.getByRole("button", { name: "Something else happened" }).click();
  await page.getByLabel("What it was").fill("Mirror glass");
  await page.getByRole("button", { name: "Log it" }).click();
  await page
    .getByRole("region", { name: "Log" })
    .getByText("Mirror glass")
    .first()
    .waitFor();
  await fits();

  // What leaves: the archive comes in again as it was, photos and log too.
  const zip = join(out, "all.zip");
  writeFileSync(
    zip,
    Buffer.from(await (await fetch(`${api}/archive.zip`)).arrayBuffer()),
  );
  await page.goto(demo);
  await page.getByText("Bought", { exact: true }).waitFor();
  await page.getByLabel("File to import").setInputFiles(zip);
  await page.waitForURL(/\/c\/.*\/road/);
  const again = await json(
    `${demo}/api/candidates/${page.url().match(/\/c\/([^/]+)/)[1]}`,
  );
  view = await json(api);
  assert.deepEqual(again.candidate, view.candidate);
  assert.deepEqual(again.assessment, view.assessment);

  // Passed over: why is kept, and it can be taken back.
  const other = idOf("Long-haul");
  await page.goto(`${demo}/c/${other}/verdict/after`);
  await page.getByLabel("Why").fill("Too much rust");
  await page.getByRole("button", { name: "Mark as passed over" }).click();
  await page.getByTestId("ending").getByText("Too much rust").waitFor();
  await page.getByRole("button", { name: "Take that back" }).click();
  await page.getByRole("button", { name: "Mark as bought" }).waitFor();
  assert.deepEqual(page.thrown, []);
});
