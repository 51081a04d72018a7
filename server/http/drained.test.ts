import { Writable } from "node:stream";
import { expect, test } from "vitest";
import { drained } from "./drained.ts";

/** A reader that takes what it was given when it is told to. */
function slowReader() {
  const taken: (() => void)[] = [];
  const stream = new Writable({ highWaterMark: 1, write: (_chunk, _encoding, done) => void taken.push(done) });
  const listeners = () => ["drain", "close", "error"].map((event) => stream.listenerCount(event));
  return { stream, take: () => taken.shift()?.(), listeners };
}

test("however many wait, and however often, one set of listeners is there", async () => {
  const { stream, take, listeners } = slowReader();
  const before = listeners();
  for (let round = 0; round < 20; round++) {
    expect(stream.write("a")).toBe(false);
    const waits = Array.from({ length: 20 }, () => drained(stream));
    expect(listeners()).toEqual(before.map((n) => n + 1));
    take();
    await Promise.all(waits);
    expect(listeners()).toEqual(before.map((n) => n + 1));
  }
});

test("who waits goes on where the reader is gone, and nobody waits for one that was", async () => {
  const { stream } = slowReader();
  stream.write("a");
  const wait = drained(stream);
  stream.destroy();
  await wait;
  await drained(stream);
});
