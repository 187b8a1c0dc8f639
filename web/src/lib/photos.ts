// Photos of checks that wait to be stored.

import { createStore, del, values } from "idb-keyval";
import { api, type CandidateView } from "./api";
import { deviceQueue } from "./deviceQueue";
import { newId } from "./id";
import type { Waiting } from "./queue";

export interface WaitingPhoto extends Waiting {
  family: string;
  check: string;
  title: string;
  photo: Blob;
}

const { queue, start, use } = deviceQueue<WaitingPhoto>("ticksage-photos", (p) =>
  api.addPhoto(p.candidate, p.family, p.check, p.id, p.photo, p.title),
);

/** Takes over what an earlier version of this page left waiting. */
async function takeOver() {
  const earlier = createStore("ticksage", "photos");
  type Kept = Omit<WaitingPhoto, "id" | "at"> & { name: string; at: number };
  for (const { name, at, ...kept } of await values<Kept>(earlier)) {
    queue.add({ ...kept, id: name, at: new Date(at).toISOString() });
    await del(name, earlier);
  }
}

export const photos = {
  start(stored: (view: CandidateView) => void) {
    start(stored);
    // Where the browser keeps nothing, there is nothing to take over.
    takeOver().catch(() => undefined);
  },
  add(candidate: string, family: string, check: string, files: File[]) {
    const now = Date.now();
    files.forEach((photo, n) =>
      queue.add({
        candidate,
        family,
        check,
        id: newId(),
        title: photo.name,
        photo,
        // In the order in which they were chosen.
        at: new Date(now + n).toISOString(),
      }),
    );
  },
  retry: (id: string) => queue.retry(id),
  discard: (id: string) => queue.discard(id),
};

export const usePhotos = use;
