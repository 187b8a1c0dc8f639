// A page of another site can change nothing here and read nothing, and a foreign name that points here is refused.

import assert from "node:assert/strict";
import { createServer, request } from "node:http";
import { json, main, openPage } from "./browser.mjs";

const [, , demo] = process.argv;

/** What the foreign page tries; each attempt says how it ended. */
const attempts = `async ([target, id]) => {
  const results = {};
  const attempt = async (name, url, options) => {
    try {
      const answer = await fetch(target + url, options);
      results[name] = answer.type === "opaque" ? "sent blindly" : answer.status;
    } catch {
      results[name] = "stopped by the browser";
    }
  };
  const body = JSON.stringify({ archived: true });
  await attempt("read", "/api/candidates");
  await attempt("read blindly", "/api/candidates", { mode: "no-cors" });
  await attempt("plain text", "/api/candidates/import", { method: "POST", mode: "no-cors", body });
  await attempt("json", "/api/candidates/" + id + "/archived",
    { method: "PUT", headers: { "content-type": "application/json" }, body });
  return results;
}`;

/** The status of a request under a name of one's choosing. */
const under = (host, method = "GET", path = "/api/candidates", headers = {}) =>
  new Promise((resolve, reject) => {
    const { hostname, port } = new URL(demo);
    const sent = request(
      { hostname, port, path, method, headers: { host, ...headers } },
      (answer) => {
        answer.resume();
        answer.on("end", () => resolve(answer.statusCode));
      },
    );
    sent.on("error", reject);
    sent.end();
  });

await main(async (browser) => {
  const before = await json(`${demo}/api/candidates`);
  const site = createServer((_, answer) => {
    answer.setHeader("content-type", "text/html");
    answer.end(
      `<!doctype html><title>Elsewhere</title><h1>Elsewhere</h1>
       <form method="post" enctype="text/plain" action="${demo}/api/candidates/import">
         <input name='{"format":"x","y":"' value='"}'><button>Win a van</button></form>`,
    );
  });
  await new Promise((ready) => site.listen(0, "127.0.0.1", ready));
  const elsewhere = `http://localhost:${site.address().port}/`;
  const page = await openPage(browser, 1280, 800);
  // The browser tells of what it stopped: that is what is wanted here.
  page.thrown.length = 0;
  await page.goto(elsewhere);
  const results = await page.evaluate(
    `(${attempts})(${JSON.stringify([demo, before[0].id])})`,
  );
  assert.equal(results.read, "stopped by the browser");
  assert.equal(results["read blindly"], "stopped by the browser");
  assert.equal(results.json, "stopped by the browser");
  await page.getByRole("button", { name: "Win a van" }).click();
  await page.getByText("Another web page tried to change something").waitFor();
  assert.deepEqual(await json(`${demo}/api/candidates`), before);

  // A name that somebody made to point to this machine.
  const own = new URL(demo).host;
  assert.equal(await under(own), 200);
  assert.equal(await under("evil.example"), 403);
  assert.equal(await under(`evil.example:${new URL(demo).port}`), 403);
  assert.equal(await under("evil.example", "GET", "/"), 403);
  assert.equal(
    await under(own, "DELETE", "/api/candidates", { origin: elsewhere }),
    403,
  );
  site.close();
  site.closeAllConnections();
});
