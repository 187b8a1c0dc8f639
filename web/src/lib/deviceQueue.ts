// Queues of this device: kept in the browser's own database, told among its windows.

import { createStore, del, set, values } from "idb-keyval";
import { useSyncExternalStore } from "react";
import { ApiError, type CandidateView } from "./api";
import { Queue, type Failure, type QueueState, type Waiting } from "./queue";

function failure(error: unknown): Failure {
  return error instanceof ApiError ? error : new ApiError(undefined);
}

export interface DeviceQueue<T extends Waiting> {
  queue: Queue<T>;
  /** Starts sending what an earlier visit left, and tells where stored views go. */
  start: (stored: (view: CandidateView) => void) => void;
  use: () => QueueState<T>;
}

/** A queue whose things are kept in a database of the browser. */
export function deviceQueue<T extends Waiting>(
  database: string,
  send: (item: T) => Promise<CandidateView>,
  takeBack?: (item: T) => Promise<CandidateView>,
): DeviceQueue<T> {
  let onStored: (view: CandidateView) => void = () => undefined;
  // Made when first used: a browser may refuse it.
  const store = () => createStore(database, "waiting");
  const channel = "BroadcastChannel" in window ? new BroadcastChannel(database) : null;
  const queue = new Queue<T>({
    shelf: {
      all: async () => values<T>(store()),
      put: async (item) => set(item.id, item, store()),
      drop: async (id) => del(id, store()),
    },
    send: async (item) => onStored(await send(item)),
    ...(takeBack && { takeBack: async (item: T) => onStored(await takeBack(item)) }),
    failure,
    retryMs: 2000,
    announce: () => channel?.postMessage("changed"),
  });
  return {
    queue,
    start(stored) {
      onStored = stored;
      window.addEventListener("online", () => void queue.send());
      channel?.addEventListener("message", () => void queue.refresh());
      void queue.refresh();
    },
    use: () => useSyncExternalStore(queue.subscribe, queue.snapshot),
  };
}
