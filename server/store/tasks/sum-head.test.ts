import { describe, expect, test } from "vitest";
import type { ReadingDocument } from "../../../core/reading/document.ts";
import { planReading } from "../../../core/reading/plan.ts";
import { SentenceReducer } from "../../../core/reading/reduce-sentence.ts";
import { batchOf } from "../../../core/series/batch.ts";
import { seeded } from "../../../core/testing/random.ts";
import { Head } from "../head.ts";
import { columnsOfSnapshot } from "../head-snapshot.ts";
import { slotMs } from "../slots.ts";
import { sumHead } from "./sum-head.ts";

const start = 10 * slotMs;
const machines = 3;
const perMachine = 7;
const ids = Array.from({ length: machines * perMachine }, (_, i) => i + 1);
const series = ids.map((id) => ({
  tags: { machine: `m${(id - 1) % machines}`, n: String(id) },
  unit: "1",
  kind: "level" as const,
}));

function headOf(
  answers: number,
  everyMs: number,
  nextValue: (random: () => number) => number = (random) => Math.floor(random() * 1000),
): Head {
  const random = seeded(41);
  const head = new Head(0);
  for (let i = 0; i < answers; i++) {
    for (let machine = 0; machine < machines; machine++) {
      head.put(
        batchOf(
          ids
            .filter((id) => (id - 1) % machines === machine)
            .map((id) => [id, start + i * everyMs + machine, nextValue(random)] as const),
        ),
      );
    }
  }
  return head;
}

function both(head: Head, sentence: object, fromMs: number, toMs: number, step = 15) {
  const document: ReadingDocument = {
    window: { from: fromMs, to: toMs },
    step,
    sentences: { x: { counter: "x", combine: "sum", ...sentence } },
  };
  const [plan] = planReading(document, { x: series }).sentences;
  if (!plan) throw new Error("no plan");
  const snapshot = head.snapshot(ids, plan.fromMs, plan.toMs);
  const plain = new SentenceReducer(plan);
  columnsOfSnapshot(snapshot, plan.fromMs, plan.toMs).forEach((raw, i) => {
    plain.add(i, [raw]);
  });
  return { fast: sumHead(plan, snapshot), plain: plain.finish() };
}

describe("sums straight from row blocks", () => {
  test.each([
    ["together", "sum", 15],
    ["together", "mean", 15],
    [{ per: ["machine"] }, "sum", 15],
    ["together", "sum", 40],
  ])(
    "are those of the plain way: %j, the %s of every %d s, across row blocks, open rows and two slots",
    (lines, combine, step) => {
      const head = headOf(600, 15_000);
      for (const [from, to] of [
        [0, 9_000_000],
        [1_000_000, 4_000_000],
        [6_900_000, 7_500_000],
      ] as const) {
        const { fast, plain } = both(head, { lines, combine }, start + from, start + to, step);
        expect(fast?.length).toBe(plain.length);
        for (const [k, line] of plain.entries()) {
          expect(fast?.[k]?.members).toEqual(line.members);
          for (const [i, v] of line.values.entries()) expect(fast?.[k]?.values[i]).toBeCloseTo(v, 6);
          expect(line.values.some((v) => v > 0)).toBe(true);
        }
      }
    },
  );
  test.each([
    ["the greatest of lines", 15_000, { lines: "together", combine: "max" }, 15],
    ["lines of one series", 15_000, { lines: "each" }, 15],
    ["a percentile", 15_000, { lines: "together", of_every: "p95" }, 15],
    ["rates", 15_000, { lines: "together", as: "rate" }, 15],
  ])("leave %s to the plain way", (_name, everyMs, sentence, step) => {
    expect(both(headOf(200, everyMs), sentence, start, start + 2_000_000, step).fast).toBeUndefined();
  });
  test("leave NaN and samples out of order to the usual way", () => {
    expect(
      both(
        headOf(200, 15_000, (random) => (random() < 0.01 ? Number.NaN : 1)),
        { lines: "together" },
        start,
        start + 2_000_000,
      ).fast,
    ).toBeUndefined();
    const late = headOf(200, 15_000);
    late.put(batchOf([[1, start + 7, 5]]));
    expect(both(late, { lines: "together" }, start, start + 2_000_000).fast).toBeUndefined();
  });
});
