import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { ReadingAnswer, ReadingDocument } from "../../core/reading/document.ts";
import { inCommon, SharedAnswers } from "./shared-answers.ts";

let committed = () => {};
let shared: SharedAnswers;
const fresh = () =>
  new SharedAnswers({
    onCommit: (listener) => {
      committed = listener as () => void;
      return () => {};
    },
  });
beforeEach(() => {
  vi.useFakeTimers();
  shared = fresh();
});
afterEach(() => vi.useRealTimers());

const reading = (counter: string): ReadingDocument => ({ window: { from: 0, to: 1 }, sentences: { a: { counter } } });
/** An answer that says which page worked it out, and how many values of ten it has. */
const answerOf = (page: string, length = 1) =>
  ({ by: page, lines: [{ values: new Array(length).fill(0.123456789) }] }) as unknown as ReadingAnswer;

/** One page that asks for readings: what it worked out itself, and what came to it. */
async function ask(
  page: string,
  counters: readonly string[],
  working: (own: readonly string[]) => Promise<readonly string[]> = async (own) => own,
  length = 1,
) {
  const worked: string[] = [];
  const came: Record<string, string> = {};
  await inCommon(
    shared,
    counters.map(reading),
    async (own, settle) => {
      const names = own.map((i) => counters[i] as string);
      worked.push(...names);
      for (const name of await working(names)) {
        const i = counters.indexOf(name);
        came[name] = JSON.parse(settle(i, answerOf(page, length))).by;
      }
    },
    async (answers) => {
      for (const [i, text] of answers) came[counters[i] as string] = JSON.parse(text).by;
    },
  );
  return { worked, came };
}
const later = async (own: readonly string[]) => {
  await vi.advanceTimersByTimeAsync(50);
  return own;
};

test("pages that ask the same in one moment have it worked out once, each with what it alone asks for", async () => {
  const [one, two, three] = await Promise.all([
    ask("one", ["load", "memory"], later),
    ask("two", ["memory", "disks"], later),
    ask("three", ["load", "memory", "disks"], later),
  ]);
  expect([one.worked, two.worked, three.worked]).toEqual([["load", "memory"], ["disks"], []]);
  expect(two.came).toEqual({ memory: "one", disks: "two" });
  expect(three.came).toEqual({ load: "one", memory: "one", disks: "two" });
});

test("what is known holds until samples are stored, and a second at most", async () => {
  vi.useRealTimers(); // the cache goes by the real clock
  shared = fresh();
  await ask("one", ["load"]);
  expect((await ask("two", ["load"])).worked).toEqual([]);
  committed();
  expect((await ask("three", ["load"])).worked).toEqual(["load"]);
  expect((await ask("four", ["load"])).worked).toEqual([]);
  await new Promise((done) => setTimeout(done, 1100));
  expect((await ask("five", ["load"])).worked).toEqual(["load"]);
});

test("samples that are stored while one works do not reach who asks after them", async () => {
  const before = ask("before", ["load"], async (own) => {
    committed();
    return later(own);
  });
  expect((await ask("after", ["load"])).worked).toEqual(["load"]);
  expect((await before).came).toEqual({ load: "before" });
});

test.each([
  ["throws", () => Promise.reject(new Error("its page has gone"))],
  ["answers some of it", async () => ["memory"]],
])("where the one who works %s, whoever waits does it, and the next is not stuck", async (_, working) => {
  const first = ask("first", ["load", "memory"], async () => {
    await vi.advanceTimersByTimeAsync(50);
    return working();
  });
  const second = ask("second", ["load"], later);
  await first.catch((error: Error) => expect(error.message).toBe("its page has gone"));
  expect(await second).toEqual({ worked: ["load"], came: { load: "second" } });
  expect((await ask("third", ["load"])).came).toEqual({ load: "third" });
});

test("a large answer is not kept for others that come later", async () => {
  await ask("one", ["load"], undefined, 20_000);
  expect((await ask("two", ["load"])).worked).toEqual(["load"]);
});

test("a reading is checked once, as it was sent; what does not fit is told every time", () => {
  const check = vi.fn((sent: unknown) => {
    if ((sent as ReadingDocument).window.to === 0) throw new Error("the end is not after the beginning");
    return { ...(sent as ReadingDocument), zone: "UTC" };
  });
  const sent = reading("load");
  expect(shared.checked(sent, check)).toMatchObject({ zone: "UTC" });
  expect(shared.checked(structuredClone(sent), check)).toMatchObject({ zone: "UTC" });
  expect(check).toHaveBeenCalledTimes(1);
  shared.checked(reading("memory"), check);
  expect(check).toHaveBeenCalledTimes(2);
  const wrong = { ...sent, window: { from: 0, to: 0 } };
  for (let i = 0; i < 2; i++) expect(() => shared.checked(wrong, check)).toThrow("not after");
});
