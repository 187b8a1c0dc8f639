// A candidate whose stored document makes no sense is shown with what is wrong, beside the others, and is mended. A
// page of the API that was opened in a window never takes the application's place without a connection.

import assert from "node:assert/strict";
import { cuttable, database, json, main, openPage } from "./browser.mjs";

const [, , demo, , width, height] = process.argv;

await main(async (browser) => {
  const page = await openPage(browser, Number(width), Number(height));
  // A reading that no clock shows, put into the records behind the application's back.
  await database("break");
  await page.goto(demo);
  await page.getByText("It cannot be judged").waitFor();
  await page.getByRole("link", { name: "Blue Ferryman diesel" }).waitFor();
  const yard = await json(`${demo}/api/candidates`);
  assert.equal(yard.length, 9);
  const broken = yard.filter((e) => !e.summary);
  assert.deepEqual(
    broken.map((e) => e.title),
    ["Long-haul Ferryman"],
  );
  await page.getByRole("link", { name: "See what is wrong" }).click();
  await page
    .getByRole("heading", { name: "Long-haul Ferryman: something is wrong" })
    .waitFor();
  await page
    .getByText(/must lie between 0 and/)
    .first()
    .waitFor();
  await page.getByRole("button", { name: "Take this paper back" }).click();
  // Judged again, where it stood before.
  await page
    .getByTestId("milestone")
    .or(page.getByRole("navigation", { name: "Order of work" }))
    .first()
    .waitFor();
  await page.goto(demo);
  await page.getByRole("link", { name: "Long-haul Ferryman" }).waitFor();
  assert.equal(await page.getByText("It cannot be judged").count(), 0);

  // Without a connection.
  const line = await cuttable(demo);
  await page.goto(line.address);
  await page.evaluate(() =>
    navigator.serviceWorker.ready.then(() => undefined),
  );
  await page.reload();
  await page.waitForFunction(() => navigator.serviceWorker.controller !== null);
  await page.goto(`${line.address}/api/health`);
  await line.cut(page);
  await page.goto(line.address);
  await page.getByRole("heading", { name: "Yard" }).waitFor();
  await line.mend(page);
  assert.deepEqual(page.thrown, []);
});
