import { describe, expect, test } from "vitest";
import { SourceClock } from "./source-clock.ts";

const clockOf = (lates: readonly number[]) => {
  const clock = new SourceClock();
  lates.forEach((late, i) => {
    clock.note(1e12 + i * 5000 - late, 1e12 + i * 5000);
  });
  return clock;
};

describe("a source's clock, by how late its newest samples come", () => {
  test.each([
    ["too few to tell", [60_000, 60_000], undefined, 60_000],
    ["a minute behind, with a quarter of a second on the way", [60_250, 60_100, 60_400], 60_100, 60_400],
    ["ahead by a minute: nothing of it is late", [-60_000, -59_500, -59_900], -60_000, 0],
    ["right, and sent in batches of half a minute", [100, 30_100, 15_000, 120], 100, 30_100],
    [
      "right; one answer that was held up for long says nothing of the others",
      [...Array(19).fill(200), 900_000],
      200,
      200,
    ],
    ["behind by an hour: by measuring, nobody is waited for that long", Array(10).fill(3_600_000), 3_600_000, 300_000],
  ])("%s", (_name, lates, behind, late) => {
    const clock = clockOf(lates);
    expect([clock.behindMs, clock.lateMs]).toEqual([behind, late]);
  });
  test("only the last twenty count", () =>
    expect(clockOf([...Array(20).fill(60_000), ...Array(20).fill(50)]).behindMs).toBe(50));
});
