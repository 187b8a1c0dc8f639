import assert from "node:assert/strict";
import { mock, test } from "node:test";
import { newId } from "../src/lib/id";
import { Queue, type Shelf, type Waiting } from "../src/lib/queue";

interface Note extends Waiting {
  text: string;
}

const note = (text: string, at: number): Note => ({
  id: text,
  candidate: "c",
  at: `2026-11-20T10:00:0${at}Z`,
  text,
});

/** A shelf in memory that two queues may share, as two windows share the browser's database. */
function shelf(): Shelf<Note> & { kept: Map<string, Note> } {
  const kept = new Map<string, Note>();
  return {
    kept,
    all: async () => [...kept.values()],
    put: async (item) => void kept.set(item.id, item),
    drop: async (id) => void kept.delete(id),
  };
}

class Away extends Error {}

const failure = (e: unknown) => ({ passing: e instanceof Away, message: (e as Error).message });
const settle = async () => {
  for (let n = 0; n < 30; n++) await Promise.resolve();
};
const texts = (q: Queue<Note>) => q.snapshot().waiting.map((w) => w.text);

test("things are sent in order, once each, and then no longer kept", async () => {
  const sent: string[] = [];
  const s = shelf();
  const q = new Queue<Note>({ shelf: s, failure, retryMs: 10, send: async (w) => void sent.push(w.text) });
  q.add(note("a", 1));
  q.add(note("b", 2));
  await settle();
  assert.deepEqual([sent, texts(q), s.kept.size], [["a", "b"], [], 0]);
});

test("what cannot be sent waits on the shelf, is told, and goes when the server is back", async (t) => {
  t.after(() => mock.timers.reset());
  mock.timers.enable({ apis: ["setTimeout"] });
  let away = true;
  const sent: string[] = [];
  const s = shelf();
  const send = async (w: Note) => {
    if (away) throw new Away("no connection");
    sent.push(w.text);
  };
  const q = new Queue<Note>({ shelf: s, failure, retryMs: 1000, send });
  q.add(note("a", 1));
  await settle();
  assert.deepEqual([texts(q), q.snapshot().problem, [...s.kept.keys()]], [["a"], "no connection", ["a"]]);
  // The page is closed and opened again: the next visit finds it.
  const next = new Queue<Note>({ shelf: s, failure, retryMs: 1000, send });
  await next.refresh();
  assert.deepEqual(texts(next), ["a"]);
  away = false;
  mock.timers.tick(1000);
  await settle();
  assert.deepEqual([texts(q), q.snapshot().problem, s.kept.size], [[], null, 0]);
  await next.refresh();
  assert.deepEqual(texts(next), []);
});

test("two windows keep what each was given", async () => {
  const s = shelf();
  const send = async () => {
    throw new Away("away");
  };
  const [a, b] = [1, 2].map(() => new Queue<Note>({ shelf: s, failure, retryMs: 1e6, send }));
  a?.add(note("first", 1));
  b?.add(note("second", 2));
  await settle();
  assert.deepEqual([...s.kept.keys()].sort(), ["first", "second"]);
  await a?.refresh();
  assert.deepEqual(a && texts(a), ["first", "second"]);
  a?.discard("second");
  await settle();
  await b?.refresh();
  assert.deepEqual(b && texts(b), ["first"]);
});

test("what the server refuses is kept with its reason, does not hold up the rest, and can be sent again", async () => {
  let refuse = true;
  const sent: string[] = [];
  const s = shelf();
  const q = new Queue<Note>({
    shelf: s,
    failure,
    retryMs: 10,
    send: async (w) => {
      if (w.text === "bad" && refuse) throw new Error("out of range");
      sent.push(w.text);
    },
  });
  q.add(note("bad", 1));
  q.add(note("good", 2));
  await settle();
  assert.deepEqual([sent, q.snapshot().waiting.map((w) => w.refused)], [["good"], ["out of range"]]);
  assert.equal(s.kept.get("bad")?.refused, "out of range");
  refuse = false;
  q.retry("bad");
  await settle();
  assert.deepEqual([sent, texts(q), s.kept.size], [["good", "bad"], [], 0]);
});

test("what is taken back on its way is stored and then taken back; before, it is just dropped", async () => {
  const done: string[] = [];
  let finish: () => void = () => undefined;
  const s = shelf();
  const q = new Queue<Note>({
    shelf: s,
    failure,
    retryMs: 10,
    send: async (w) => {
      await new Promise<void>((go) => (finish = go));
      done.push(`stored ${w.text}`);
    },
    takeBack: async (w) => void done.push(`taken back ${w.text}`),
  });
  q.add(note("a", 1));
  q.add(note("b", 2));
  await settle();
  assert.equal(q.takeBack("a"), true);
  assert.equal(q.takeBack("b"), true);
  assert.equal(q.takeBack("unknown"), false);
  finish();
  await settle();
  assert.deepEqual([done, texts(q), s.kept.size], [["stored a", "taken back a"], [], 0]);
});

test("where the browser keeps nothing, that is told", async () => {
  const nothing: Shelf<Note> = {
    all: () => Promise.reject(new Error("forbidden")),
    put: () => Promise.reject(new Error("full")),
    drop: () => Promise.reject(new Error("forbidden")),
  };
  const send = async () => {
    throw new Away("away");
  };
  const q = new Queue<Note>({ shelf: nothing, failure, retryMs: 1e6, send });
  q.add(note("a", 1));
  await settle();
  assert.deepEqual([texts(q), q.snapshot().unkept], [["a"], true]);
});

test("ids are UUIDs of version 4, and differ", () => {
  const ids = new Set(Array.from({ length: 100 }, newId));
  assert.equal(ids.size, 100);
  for (const id of ids)
    assert.match(id, /^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
});
