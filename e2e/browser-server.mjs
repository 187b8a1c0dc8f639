// Keeps one Chromium for all journeys: prints where to reach it, and goes when its input ends.

import { chromium, launch } from "./browser.mjs";

const server = await chromium.launchServer(launch);
console.log(server.wsEndpoint());
process.stdin.on("end", () => void server.close().then(() => process.exit(0)));
process.stdin.resume();
