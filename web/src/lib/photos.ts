// Photos of checks. They are kept on this device until the server has them, sent one after another, and
// stored once: each carries its own name.

import { createStore, del, entries, set } from "idb-keyval";
import { useSyncExternalStore } from "react";
import { api, ApiError, type CandidateView } from "./api";
import { newId } from "./outbox";

export interface WaitingPhoto {
  candidate: string;
  family: string;
  check: string;
  name: string;
  title: string;
  photo: Blob;
  /** Where it can be shown from meanwhile. */
  url: string;
  /** Why the server would not have it. */
  refused?: string;
}

type Kept = Omit<WaitingPhoto, "url" | "refused"> & { at: number };

const RETRY_MS = 3000;

let waiting: WaitingPhoto[] = [];
let sending = false;
let onStored: (view: CandidateView) => void = () => undefined;
const listeners = new Set<() => void>();
const store = () => createStore("ticksage", "photos");

function change(next: WaitingPhoto[]) {
  waiting = next;
  listeners.forEach((l) => l());
}

function drop(name: string) {
  const gone = waiting.find((w) => w.name === name);
  if (gone) URL.revokeObjectURL(gone.url);
  change(waiting.filter((w) => w.name !== name));
  void del(name, store()).catch(() => undefined);
}

async function send() {
  if (sending) return;
  sending = true;
  const unsent = () => waiting.find((w) => w.refused === undefined);
  for (let next = unsent(); next; next = unsent()) {
    const { name } = next;
    try {
      onStored(await api.addPhoto(next.candidate, next.family, next.check, name, next.photo, next.title));
      drop(name);
    } catch (e) {
      const refusal = e instanceof ApiError ? e : new ApiError(undefined);
      if (refusal.passing) {
        setTimeout(() => void send(), RETRY_MS);
        break;
      }
      change(waiting.map((w) => (w.name === name ? { ...w, refused: refusal.message } : w)));
    }
  }
  sending = false;
}

export const photos = {
  /** Starts sending what an earlier visit left, and tells where stored views go. */
  start(stored: (view: CandidateView) => void) {
    onStored = stored;
    window.addEventListener("online", () => void send());
    entries<string, Kept>(store())
      .then((kept) => {
        const old = kept.map(([, k]) => k).sort((a, b) => a.at - b.at);
        change([...old.map((k) => ({ ...k, url: URL.createObjectURL(k.photo) })), ...waiting]);
        return send();
      })
      // Without storage a photo is kept as long as the page is open.
      .catch(() => undefined);
  },
  add(candidate: string, family: string, check: string, files: File[]) {
    files.forEach((photo, n) => {
      const kept: Kept = {
        candidate,
        family,
        check,
        name: newId(),
        title: photo.name,
        photo,
        at: Date.now() + n / 1000,
      };
      change([...waiting, { ...kept, url: URL.createObjectURL(photo) }]);
      void set(kept.name, kept, store()).catch(() => undefined);
    });
    void send();
  },
  discard: drop,
};

export function usePhotos(): WaitingPhoto[] {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => waiting,
  );
}
