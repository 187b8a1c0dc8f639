// No screen breaks the rules that axe knows, in either theme, on phone and laptop.

import assert from "node:assert/strict";
import { AxeBuilder, json, main, openPage } from "./browser.mjs";

const [, , demo, empty] = process.argv;

await main(async (browser) => {
  const [entry] = await json(`${demo}/api/candidates`);
  const gated = (await json(`${demo}/api/candidates`)).find(
    (e) => e.summary.gates > 0,
  );
  const screens = [
    "/",
    "/new",
    ...["advert", "walk-round", "road", "verdict"].map(
      (s) => `/c/${entry.id}/${s}`,
    ),
    `/c/${gated.id}/verdict`,
    "/nowhere",
  ];
  for (const colorScheme of ["light", "dark"]) {
    for (const [width, height] of [
      [1280, 800],
      [390, 844],
    ]) {
      const page = await openPage(browser, width, height, { colorScheme });
      const look = async (url) => {
        await page.goto(url);
        await page.locator("h1").first().waitFor();
        await page.waitForLoadState("networkidle");
        const found = await new AxeBuilder({ page }).analyze();
        const said = found.violations.map(
          (v) =>
            `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 160)).join(" | ")}`,
        );
        assert.deepEqual(said, [], `${url} ${colorScheme} at ${width}`);
      };
      for (const screen of screens) await look(demo + screen);
      await look(`${empty}/`);
      assert.deepEqual(page.thrown, []);
      await page.context().close();
    }
  }
});
