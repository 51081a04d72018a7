import { getEventListeners } from "node:events";
import { afterAll, beforeAll, expect, test, vi } from "vitest";
import type { ReadingDocument } from "../../core/reading/document.ts";
import { answerReading } from "../reading/answer-reading.ts";
import { expectedOf, knownBatch, makeKnownSeries, nowAt, startMs, storedIn } from "../testing/known-samples.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { Store } from "../store/store.ts";
import { CancelledError, workKind } from "./work-kind.ts";
import { WorkerPool } from "./worker-pool.ts";

// The threads run the built file, as the server's do.
const batches = 100;
let db: TestDatabase;
let threaded: Store;
let inline: Store;
beforeAll(async () => {
  db = await testDatabase();
  let k = 0;
  threaded = await Store.open(db.database, { now: () => nowAt(k), executor: new WorkerPool(db.url, 2) });
  await makeKnownSeries(threaded);
  for (; k < batches; k++) {
    const written = threaded.write(knownBatch(k));
    await threaded.flush();
    await written;
  }
  await threaded.maintain();
  inline = await Store.open(db.database, { now: () => nowAt(batches) });
});
afterAll(async () => {
  await threaded.close();
  await inline.close();
  await db.drop();
});

const end = nowAt(batches);

test("samples read by a thread are those that were written", async () => {
  expect(await storedIn(threaded, startMs, end)).toEqual(expectedOf(batches));
});

test("a thread that answered that a series has nothing can answer so again", async () => {
  const withNothing = [1, 2, 3, 4, 5, 1_000_000];
  for (let asked = 0; asked < 4; asked++) {
    const columns = await threaded.read(withNothing, startMs, end);
    expect(columns.map(({ timeMs }) => timeMs.length)).toEqual([...Array(5).fill(batches * 20), 0]);
  }
});

test.each([
  ["each", { lines: "each" }],
  ["summed on two threads", { lines: "together", combine: "sum" }],
  ["their least, on two threads", { lines: "together", combine: "min" }],
  ["their mean, which one thread must work out", { lines: "together", combine: "mean" }],
  ["their 95 %", { lines: "together", combine: "p95" }],
] as const)("a reading over all, %s, is the same on threads as right here", async (_name, sentence) => {
  const document: ReadingDocument = {
    window: { from: startMs, to: end },
    step: 120,
    sentences: { x: { counter: "known", ...sentence } },
  };
  const expected = await answerReading(inline, document);
  // the last sample holds into the step after it
  expect(expected.lines[0]?.values.filter((v) => v !== null).length).toBe(batches * 10 + 1);
  const found = await answerReading(threaded, document);
  expect(found.lines.map(({ tags }) => tags)).toEqual(expected.lines.map(({ tags }) => tags));
  found.lines.forEach(({ values }, line) => {
    values.forEach((value, i) => {
      expect(value).toBeCloseTo(expected.lines[line]?.values[i] as number, 9);
    });
  });
});

test("work for somebody who has gone is given up, before it begins and while it waits; the next is done", async () => {
  const document: ReadingDocument = {
    window: { from: startMs, to: end },
    step: 120,
    sentences: { x: { counter: "known" } },
  };
  await expect(answerReading(threaded, document, AbortSignal.abort())).rejects.toThrow(CancelledError);
  const gone = new AbortController();
  const many = Array.from({ length: 12 }, () =>
    answerReading(threaded, document, gone.signal).then(
      () => "answered",
      (error: Error) => error.name,
    ),
  );
  gone.abort();
  expect((await Promise.all(many)).filter((outcome) => outcome === "CancelledError").length).toBeGreaterThanOrEqual(8);
  expect((await answerReading(threaded, document)).lines).toHaveLength(40);
});

test("one signal may stand over many tasks: nothing is left at it when they are over", async () => {
  const document: ReadingDocument = {
    window: { from: startMs, to: end },
    step: 120,
    sentences: { x: { counter: "known" } },
  };
  const { signal } = new AbortController();
  for (let i = 0; i < 3; i++) await answerReading(threaded, document, signal);
  expect(getEventListeners(signal, "abort")).toHaveLength(0);
});

test("an error on a thread comes back as it was, and the thread works on", async () => {
  await db.database.query("alter table chunk rename to chunk_away");
  await expect(storedIn(threaded, startMs, end)).rejects.toThrow('relation "chunk" does not exist');
  await db.database.query("alter table chunk_away rename to chunk");
  expect(await storedIn(threaded, startMs, end)).toEqual(expectedOf(batches));
});

/** Work that no thread knows: it comes back as an error, as soon as any. */
const once = (pool: WorkerPool) =>
  expect(pool.run(workKind("nothing"), undefined)).rejects.toThrow("no work is called nothing");

test("of threads that rest, the last is kept for longer", async () => {
  const pool = new WorkerPool(db.url, 2, { restMs: 50, lastRestMs: 600_000 });
  const all = [once(pool), once(pool), once(pool)];
  expect(pool.alive).toBe(3);
  await Promise.all(all);
  await vi.waitFor(() => expect(pool.alive).toBe(1), 10_000);
  await once(pool);
  expect(pool.alive).toBe(1);
  await pool.close();
});

test("work that comes just when a thread is given up is done by another", async () => {
  vi.useFakeTimers({ toFake: ["setTimeout", "clearTimeout"] });
  const pool = new WorkerPool(db.url, 1, { restMs: 5000, lastRestMs: 5000 });
  await once(pool);
  vi.advanceTimersByTime(5000);
  vi.useRealTimers();
  await once(pool); // the thread before is still ending
  await pool.close();
});
