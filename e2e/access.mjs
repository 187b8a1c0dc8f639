// No screen breaks the rules that axe knows: each once in the light theme on a laptop, once in the dark on a phone.

import assert from "node:assert/strict";
import { AxeBuilder, json, main, openPage } from "./browser.mjs";

const [, , demo, empty] = process.argv;

await main(async (browser) => {
  const [entry] = await json(`${demo}/api/candidates`);
  const blocked = (await json(`${demo}/api/candidates`)).find(
    (e) => e.summary.blockers > 0,
  );
  const fallen = (await json(`${demo}/api/candidates`)).find((e) =>
    e.summary.title.startsWith("Repainted"),
  );
  const screens = [
    "/",
    "/new",
    "/which",
    "/adverts",
    "/sheets",
    "/sheets/bk4",
    "/sheets/bk4/compare?with=tarn22",
    "/sheets/s6/card",
    ...["advert", "walk-round", "road", "bill", "verdict"].map(
      (s) => `/c/${entry.id}/${s}`,
    ),
    `/c/${blocked.id}/verdict`,
    ...["price", "report", "after"].map((p) => `/c/${blocked.id}/verdict/${p}`),
    `/side?ids=${entry.id},${blocked.id},${fallen.id}`,
    `/c/${entry.id}/road/bk4/wet-belt`,
    ...[
      "",
      "/ask",
      "/provenance",
      "/clock",
      "/ledger",
      "/work",
      "/tests",
      "/kept",
    ].map((p) => `/c/${fallen.id}/papers${p}`),
    "/nowhere",
  ];
  const walk = async (colorScheme, width, height) => {
    const page = await openPage(browser, width, height, { colorScheme });
    const look = async (url, then) => {
      await page.goto(url);
      await page.locator("h1").first().waitFor();
      await then?.();
      await page.waitForLoadState("networkidle");
      const found = await new AxeBuilder({ page })
        // The application has no frames: no page of its own for the outcome.
        .setLegacyMode()
        .options({ resultTypes: ["violations"] })
        .analyze();
      const said = found.violations.map(
        (v) =>
          `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 160)).join(" | ")}`,
      );
      assert.deepEqual(said, [], `${url} ${colorScheme} at ${width}`);
    };
    for (const screen of screens) await look(demo + screen);
    await look(`${demo}/c/${entry.id}/road`, async () => {
      await page.getByRole("button", { name: /Sources and use/ }).click();
      await page.getByRole("button", { name: /Only owners/ }).click();
      await page.getByTestId("trial").waitFor();
      await page.getByRole("button", { name: "Work it out" }).click();
      await page.getByTestId("would-move").waitFor();
    });
    await look(`${demo}/c/${blocked.id}/walk-round`, async () => {
      for (const check of ["ferryman/underside", "base-vehicle/tread"]) {
        const card = page.locator(`[id="check-${check}"]`);
        if ((await card.getAttribute("aria-expanded")) !== "true")
          await card.click();
      }
    });
    await look(`${demo}/c/${blocked.id}/walk-round/scan`, async () => {
      await page.getByRole("button", { name: "Read", exact: true }).click();
      await page.getByText("What it says of the checks").waitFor();
    });
    await look(`${empty}/`);
    assert.deepEqual(page.thrown, []);
    await page.context().close();
  };
  // Nothing is changed, so the two go side by side: the rules are worked out in the page, one core for each.
  await Promise.all([walk("light", 1280, 800), walk("dark", 390, 844)]);
});
