import { describe, expect, test } from "vitest";
import { Arena } from "./arena.ts";
import { joinColumns } from "./join-columns.ts";

const times = (...list: number[]) => Float64Array.from(list);

describe("joining", () => {
  test("series that share their times piece by piece share them joined", () => {
    const first = times(1, 2);
    const second = times(3, 4);
    const [a, b, c] = joinColumns([
      [
        { timeMs: first, value: times(10, 20) },
        { timeMs: second, value: times(30, 40) },
      ],
      [
        { timeMs: first, value: times(1, 2) },
        { timeMs: second, value: times(3, 4) },
      ],
      [{ timeMs: second, value: times(7, 8) }],
    ]);
    expect([[...(a?.timeMs ?? [])], [...(a?.value ?? [])]]).toEqual([
      [1, 2, 3, 4],
      [10, 20, 30, 40],
    ]);
    expect(b?.timeMs).toBe(a?.timeMs);
    expect(c?.timeMs).toBe(second);
  });
  test("pieces that overlap are merged, the later one wins", () => {
    const [one] = joinColumns([
      [
        { timeMs: times(1, 3), value: times(1, 3) },
        { timeMs: times(2, 3), value: times(20, 30) },
      ],
    ]);
    expect([[...(one?.timeMs ?? [])], [...(one?.value ?? [])]]).toEqual([
      [1, 2, 3],
      [1, 20, 30],
    ]);
  });
  test("nothing is an empty column", () => {
    expect(joinColumns([[]])[0]?.timeMs.length).toBe(0);
  });
});

test("an arena gives memory that does not overlap until it is cleared, and then the same again", () => {
  const arena = new Arena();
  const a = arena.take(10).fill(1);
  const b = arena.take(100_000).fill(2); // more than it begins with: what was taken before stays
  const c = arena.take(10).fill(3);
  expect([a[9], b[0], b[99_999], c[0]]).toEqual([1, 2, 2, 3]);
  arena.clear();
  expect(arena.take(10).buffer).toBe(c.buffer);
});
