import { setTimeout as delay } from "node:timers/promises";
import { expect, test } from "vitest";
import { atOnce } from "./at-once.ts";

test("answers stand in the order of what was given, and a few are under way at a time", async () => {
  let open = 0;
  let most = 0;
  const answers = await atOnce([30, 1, 20, 2, 10, 3], async (ms) => {
    most = Math.max(most, ++open);
    await delay(ms);
    open--;
    return ms * 2;
  });
  expect(answers).toEqual([60, 2, 40, 4, 20, 6]);
  expect(most).toBe(3);
  expect(await atOnce([], async () => 1)).toEqual([]);
});

test("where one fails, no further ones are begun", async () => {
  const begun: number[] = [];
  const asked = atOnce([1, 2, 3, 4, 5, 6, 7], async (n) => {
    begun.push(n);
    await delay(n === 2 ? 1 : 10);
    if (n === 2) throw new Error("away");
  });
  await expect(asked).rejects.toThrow("away");
  await delay(50);
  expect(begun).toEqual([1, 2, 3]);
});
