// Keeps the application and what it last showed on the device, so that it opens without a connection.
// Answers of the API always come from the server while it can be reached.

const SHELL = "ticksage-shell-1";
const ANSWERS = "ticksage-answers-1";
const MOST = { [SHELL]: 80, [ANSWERS]: 120 };
/** How long the server is waited for before what was kept is shown. */
const PATIENCE_MS = 6000;

/** The files of this build: their names are written here when it is built. */
const FILES = [];

/** The page and its files: they were loaded before this could keep any of them. */
async function keepShell() {
  const cache = await caches.open(SHELL);
  await cache.put("/", await fetch("/"));
  const kept = new Set((await cache.keys()).map((k) => new URL(k.url).pathname));
  // Their names change with their contents.
  await cache.addAll(FILES.filter((f) => !kept.has(f)));
  await self.skipWaiting();
}

self.addEventListener("install", (event) => {
  event.waitUntil(keepShell());
  // Where the browser can, it takes kept files without waking this for each of them, and asks the server for pages and
  // answers while this wakes.
  const files = { condition: { urlPattern: { pathname: "/assets/*" } }, source: { cacheName: SHELL } };
  const source = "race-network-and-fetch-handler";
  const pages = { condition: { requestMode: "navigate" }, source };
  const answers = { condition: { urlPattern: { pathname: "/api/*" }, requestMethod: "GET" }, source };
  event.waitUntil(Promise.resolve(event.addRoutes?.([files, pages, answers])).catch(() => undefined));
});

self.addEventListener("activate", (event) => {
  event.waitUntil(
    caches
      .keys()
      .then((names) => Promise.all(names.filter((n) => !(n in MOST)).map((n) => caches.delete(n))))
      .then(() => self.clients.claim()),
  );
});

async function keep(name, request, response) {
  const cache = await caches.open(name);
  await cache.put(request, response);
  const kept = await cache.keys();
  await Promise.all(kept.slice(0, Math.max(0, kept.length - MOST[name])).map((k) => cache.delete(k)));
}

function inTime(request) {
  return new Promise((resolve, reject) => {
    const timer = setTimeout(() => reject(new Error("late")), PATIENCE_MS);
    fetch(request)
      .then(resolve, reject)
      .finally(() => clearTimeout(timer));
  });
}

/** Keeps an answer with the time at which it came. */
async function keepWithTime(name, key, answer) {
  const headers = new Headers(answer.headers);
  headers.set("x-ticksage-at", new Date().toISOString());
  await keep(name, key, new Response(await answer.blob(), { status: answer.status, headers }));
}

/** From the server; what was kept, marked with its time, where that fails. The page does not wait for the keeping. */
async function fresh(event, name, key, mayKeep = () => true) {
  try {
    const response = await inTime(event.request);
    if (response.ok && mayKeep(response)) event.waitUntil(keepWithTime(name, key, response.clone()));
    return response;
  } catch (e) {
    const kept = await caches.match(key, { cacheName: name });
    if (!kept) throw e;
    const headers = new Headers(kept.headers);
    headers.set("x-ticksage-kept", kept.headers.get("x-ticksage-at") ?? "");
    return new Response(await kept.blob(), { status: kept.status, headers });
  }
}

/** Files whose names change with their contents. */
async function lasting(event) {
  const kept = await caches.match(event.request, { cacheName: SHELL });
  if (kept) return kept;
  const response = await fetch(event.request);
  if (response.ok) event.waitUntil(keep(SHELL, event.request, response.clone()));
  return response;
}

/** Whether an answer is the application's own page: a photo or a file opened in a window of its own is not. */
function isPage(response) {
  return !response.redirected && (response.headers.get("content-type") ?? "").startsWith("text/html");
}

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== self.location.origin) return;
  // What a link opens, and a copy of the yard, stay on no device.
  if (/^\/api\/(shared|backup|authority|access)(\/|$)/.test(url.pathname)) return;
  // A photo, a table or a shared page opened in a window comes from the server alone.
  const elsewhere = url.pathname.startsWith("/api/") || url.pathname.startsWith("/shared/");
  if (request.mode === "navigate" && elsewhere) return;
  if (request.mode === "navigate") event.respondWith(fresh(event, SHELL, "/", isPage));
  else if (url.pathname.startsWith("/assets/")) event.respondWith(lasting(event));
  else if (url.pathname.startsWith("/api/")) event.respondWith(fresh(event, ANSWERS, request));
});
