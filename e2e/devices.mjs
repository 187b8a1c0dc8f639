// A device that is not paired sees nothing; one that is sees the yard until it is shut out. Links open one candidate
// to a customer or a seller, and nothing else. A copy of the yard is one file.

import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { join } from "node:path";
import { AxeBuilder, folder, json, main, openPage, until } from "./browser.mjs";

const [, , demo, , width, height] = process.argv;
const elsewhere = `http://yard.example:${new URL(demo).port}`;

/** What a page of that address is answered: status and text. */
const asked = (page, path, method = "GET", data = undefined) =>
  page.evaluate(
    async ([path, method, data]) => {
      const answer = await fetch(path, {
        method,
        ...(data === undefined
          ? {}
          : {
              body: JSON.stringify(data),
              headers: { "content-type": "application/json" },
            }),
      });
      return { status: answer.status, text: await answer.text() };
    },
    [path, method, data],
  );

await main(async (browser) => {
  const own = await openPage(browser, 1280, 800);
  const phone = await openPage(browser, Number(width), Number(height));

  // At the door.
  await phone.goto(elsewhere);
  await phone.getByRole("heading", { name: "Pair this device" }).waitFor();
  assert.equal(await phone.getByText("Harbour").count(), 0);
  assert.equal((await asked(phone, "/api/candidates")).status, 401);
  const door = await new AxeBuilder({ page: phone }).analyze();
  assert.deepEqual(door.violations, []);

  // A code from this machine, typed on the other.
  await own.goto(`${demo}/devices`);
  await own.getByText("No other device is paired.").waitFor();
  await own.getByRole("button", { name: "Pair a phone" }).click();
  const code = await own.getByTestId("code").innerText();
  assert.match(code, /^[A-Z2-9]{4}-[A-Z2-9]{4}$/);
  await phone.getByLabel("Code").fill("AAAA-AAAA");
  await phone.getByRole("button", { name: "Pair it" }).click();
  await phone.getByText("does not open anything").waitFor();
  await phone.getByLabel("Code").fill(code.toLowerCase().replace("-", " "));
  await phone
    .getByLabel("What this device is called")
    .fill("Phone of the quay");
  await phone.getByRole("button", { name: "Pair it" }).click();
  await phone.getByRole("heading", { name: "Yard" }).waitFor();
  await phone.getByRole("link", { name: "Blue Ferryman diesel" }).waitFor();
  const cookie = (await phone.context().cookies()).find(
    (c) => c.name === "ticksage",
  );
  assert.ok(cookie?.httpOnly && cookie.sameSite === "Lax");
  // The code was for once.
  const again = await asked(phone, "/api/pair", "POST", {
    code,
    name: "another",
  });
  assert.equal(again.status, 403);

  // What is entered on it is in the yard.
  const id = (await json(`${demo}/api/candidates`))[0].id;
  await phone.goto(`${elsewhere}/c/${id}/walk-round`);
  const before =
    (await json(`${demo}/api/candidates/${id}`)).candidate.findings?.length ??
    0;
  const check = (await json(`${demo}/api/candidates/${id}`)).checks.find(
    (c) => !c.check.measure && !(c.check.hazards ?? []).length,
  );
  const stored = await asked(phone, `/api/candidates/${id}/findings`, "POST", {
    id: crypto.randomUUID(),
    finding: {
      family: check.family,
      check: check.check.id,
      result: { kind: "skipped" },
      note: "from the phone",
    },
  });
  assert.equal(stored.status, 201);
  await until(
    `${demo}/api/candidates/${id}`,
    (v) => (v.candidate.findings?.length ?? 0) === before + 1,
  );

  // Links, for one candidate alone.
  await own.goto(`${demo}/c/${id}/verdict`);
  const links = own.getByRole("region", { name: "Links to show" });
  const make = async (audience) => {
    await links.getByLabel("For the").selectOption(audience);
    const made = own.waitForResponse(
      (r) => r.url().endsWith("/links") && r.request().method() === "POST",
    );
    await links.getByRole("button", { name: "Make a link" }).click();
    return (await (await made).json()).path;
  };
  // A customer reads what was issued: nothing is issued yet.
  await make("customer");
  await links.getByText("issue the report first").waitFor();
  await own.goto(`${demo}/c/${id}/verdict/report`);
  await own.getByLabel("Inspected by").fill("M. Ferrow");
  await own.getByLabel("Where").fill("Hollin Quay");
  await own.getByRole("button", { name: "Issue No 1" }).click();
  await own.getByText("Inspected at Hollin Quay by M. Ferrow").waitFor();
  const issuedSheet = own.getByTestId("report-sheet");
  await issuedSheet.getByText("Fingerprint").waitFor();
  await own.goto(`${demo}/c/${id}/verdict`);
  const customer = await make("customer");
  const seller = await make("seller");
  const stranger = await openPage(browser, Number(width), Number(height));
  await stranger.goto(elsewhere + customer);
  await stranger.getByTestId("report-sheet").waitFor();
  await stranger.getByText("worth at most").waitFor();
  await stranger.getByText("Inspected at Hollin Quay by M. Ferrow").waitFor();
  assert.equal(
    await stranger.locator(`a[href^="/c/"]`).count(),
    0,
    "nothing leads into the yard",
  );
  await stranger.goto(elsewhere + seller);
  await stranger.getByRole("heading", { name: "What was found" }).waitFor();
  const told = await stranger.locator("body").innerText();
  const whole = await json(`${demo}/api/candidates/${id}`);
  const limit = Math.round(whole.assessment.value.limit);
  const shared = (await asked(stranger, `/api${seller}`)).text;
  assert.ok(!/\b(worth|limit|offer|margin)\b/i.test(told), told);
  assert.ok(
    !shared.includes(String(limit)) &&
      !/"(limit|offer|verdict|asking|reference)"/.test(shared),
  );
  assert.deepEqual(
    (await new AxeBuilder({ page: stranger }).analyze()).violations,
    [],
  );
  // It opens this candidate and no other route.
  assert.equal((await asked(stranger, `/api/candidates/${id}`)).status, 401);
  await links.getByRole("button", { name: "Take it back" }).first().click();
  await stranger.reload();
  await stranger
    .getByRole("heading", { name: "This link opens nothing" })
    .waitFor();
  await stranger.goto(elsewhere + customer);
  await stranger.getByTestId("report-sheet").waitFor();

  // Shut out.
  await own.goto(`${demo}/devices`);
  await own.getByText("Phone of the quay", { exact: true }).waitFor();
  const axe = await new AxeBuilder({ page: own }).analyze();
  assert.deepEqual(axe.violations, []);
  const file = own.waitForEvent("download");
  await own.getByRole("link", { name: "Back up now" }).click();
  const saved = join(folder(), "yard.zip");
  await (await file).saveAs(saved);
  const copy = readFileSync(saved);
  assert.equal(copy.subarray(0, 2).toString(), "PK");
  await own.getByRole("button", { name: "Shut it out" }).click();
  await own.getByText("No other device is paired.").waitFor();
  await phone.goto(elsewhere);
  await phone.getByRole("heading", { name: "Pair this device" }).waitFor();
  // Without TLS the browser says which protection it leaves out.
  const thrown = [...own.thrown, ...stranger.thrown].filter(
    (t) => !t.includes("header has been ignored"),
  );
  assert.deepEqual(thrown, []);
});
