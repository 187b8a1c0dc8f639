// Drags sliders of a running application as the browser does, one question on its way at a time and then the latest,
// and tells what a person waits for (see docs/PERFORMANCE.md).
// Usage: node scripts/drag.mjs http://127.0.0.1:8460 [title of a candidate]

import { Agent, request } from "node:http";

const [, , base = "http://127.0.0.1:8460", title = "Harbour office Ferryman"] =
  process.argv;
const agent = new Agent({ keepAlive: true });
const STEPS = 40;
/** A finger moves on so often. */
const EVERY_MS = 33;

function ask(method, path, body) {
  const text = body === undefined ? "" : JSON.stringify(body);
  return new Promise((resolve, reject) => {
    const begun = performance.now();
    const headers = {
      "content-type": "application/json",
      "accept-encoding": "gzip",
      "content-length": Buffer.byteLength(text),
    };
    const req = request(base + path, { method, agent, headers }, (res) => {
      const parts = [];
      res.on("data", (d) => parts.push(d));
      res.on("end", () =>
        resolve({
          ms: performance.now() - begun,
          bytes: Buffer.concat(parts).length,
          status: res.statusCode,
        }),
      );
    });
    req.on("error", reject);
    req.end(text);
  });
}

const yard = await (await fetch(`${base}/api/candidates`)).json();
const id = yard.find((e) => e.title.startsWith(title)).id;
const { candidate } = await (
  await fetch(`${base}/api/candidates/${id}`)
).json();
const sliders = {
  "years of keeping": (k) => ({
    ...candidate,
    plan: { ...candidate.plan, years: 2 + k / 10 },
  }),
  "usage a year": (k) => ({
    ...candidate,
    plan: {
      ...candidate.plan,
      usage_a_year: { ...candidate.plan.usage_a_year, value: 10_000 + 250 * k },
    },
  }),
  "asking price": (k) => ({ ...candidate, asking: 5000 + 50 * k }),
  "own hour": (k) => ({
    ...candidate,
    buyer: { ...candidate.buyer, labour: "self", rates: { self: 10 + k } },
  }),
};
const at = (sorted, p) =>
  sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * p))];
for (const [name, step] of Object.entries(sliders)) {
  for (const path of [
    "/api/assess/road?lean=true",
    "/api/assess/road",
    "/api/assess/bill",
  ]) {
    const [took, sizes] = [[], []];
    let waiting = null;
    const begun = performance.now();
    let flying = false;
    let last = 0;
    const fly = async () => {
      flying = true;
      while (waiting) {
        const body = waiting;
        waiting = null;
        const answer = await ask("POST", path, body);
        if (answer.status !== 200) throw new Error(`${path}: ${answer.status}`);
        took.push(answer.ms);
        sizes.push(answer.bytes);
        last = performance.now();
      }
      flying = false;
    };
    const flights = [];
    for (let k = 0; k < STEPS; k++) {
      waiting = step(k);
      if (!flying) flights.push(fly());
      await new Promise((r) => setTimeout(r, EVERY_MS));
    }
    await Promise.all(flights);
    took.sort((x, y) => x - y);
    const mean = sizes.reduce((x, y) => x + y, 0) / sizes.length;
    console.log(
      `${name.padEnd(17)} ${path.padEnd(21)} ${String(took.length).padStart(3)} asked  p50 ${at(took, 0.5).toFixed(0)}  p95 ${at(took, 0.95).toFixed(0)}  p99 ${at(took, 0.99).toFixed(0)} ms  last answer ${Math.max(0, last - begun - (STEPS - 1) * EVERY_MS).toFixed(0)} ms after the last move  ${(mean / 1000).toFixed(1)} kB packed`,
    );
  }
}
for (const [name, path] of [
  ["a look that finds nothing new", `/api/candidates/${id}?part=road`],
]) {
  const first = await fetch(base + path);
  const tag = first.headers.get("etag") ?? "";
  await first.arrayBuffer();
  const times = [];
  for (let k = 0; k < 100; k++) {
    const begun = performance.now();
    const again = await fetch(base + path, {
      headers: { "if-none-match": tag },
    });
    if (again.status !== 304) throw new Error(`${again.status}`);
    times.push(performance.now() - begun);
  }
  times.sort((x, y) => x - y);
  console.log(
    `${name}: p50 ${at(times, 0.5).toFixed(1)}, p95 ${at(times, 0.95).toFixed(1)} ms`,
  );
}
agent.destroy();
