// Answers put where the device keeps them, so that without a connection the page opens to what was seen last.

/** Where `public/sw.js` keeps answers. */
const ANSWERS = "ticksage-answers-1";

let keeping = true;

/** Whether anything is kept from now on: a device that is shut out keeps nothing of what it saw. */
export function keep(on: boolean): void {
  keeping = on;
  if (!on && isSecureContext) void caches.delete(ANSWERS);
}

/** Keeps what a write was answered with, under the address at which it is asked for. */
export function keepAnswer(path: string, body: unknown): void {
  // Elsewhere browsers keep no pages.
  if (!isSecureContext || !keeping) return;
  const headers = { "content-type": "application/json", "x-ticksage-at": new Date().toISOString() };
  const answer = new Response(JSON.stringify(body), { headers });
  // A device without room keeps what it has.
  void caches
    .open(ANSWERS)
    .then((cache) => cache.put(path, answer))
    .catch(() => undefined);
}

/** So long the first page has the machine for itself. */
const LATER_MS = 2000;

/** Keeps what was asked for before the device's own keeper was there: from then on that keeps it. */
export function keepFirst(path: string, body: unknown): void {
  if (isSecureContext && !navigator.serviceWorker.controller)
    setTimeout(() => {
      keepAnswer(path, body);
    }, LATER_MS);
}
