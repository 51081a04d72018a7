import { describe, expect, test } from "vitest";
import type { Line } from "../reading/document.ts";
import { thinned } from "../series/thinned.ts";
import { adviceWords, advisedEverySeconds } from "./advice.ts";
import { besideRuns, besideWords } from "./beside.ts";
import { overBudget, runCost } from "./cost.ts";
import { laidOver } from "./laid-over.ts";
import { type LineNumbers, numbersOf } from "./line-numbers.ts";
import { namedSentences } from "./recording.ts";
import { filedSeries, seriesOfFile } from "./run-file.ts";
import { runOfText, TableDoubts } from "./run-of-text.ts";
import { readRun } from "./run-reading.ts";
import type { RunSeries } from "./run-series.ts";

const minute = 60;
const hour = 60 * minute;
const day = 24 * hour;
const bytes = (text: string) => new TextEncoder().encode(text);
const series = (more: Partial<RunSeries>, rows: readonly (readonly [number, number])[]): RunSeries => ({
  counter: "disk.written",
  unit: "By",
  kind: "total",
  tags: { machine: "vault" },
  of: ["a"],
  ...more,
  column: { timeMs: Float64Array.from(rows, ([ms]) => ms), value: Float64Array.from(rows, ([, value]) => value) },
});

describe("what is advised and what it costs", () => {
  // needs.md 6.2: 1 s for minutes, 15 s for a day, 5 to 15 min for a week.
  test.each([
    [4 * minute, 1],
    [day, 15],
    [7 * day, 5 * minute],
    [14 * day, 15 * minute],
  ])("for %d s every %d s", (length, every) => {
    expect(advisedEverySeconds(length)).toBe(every);
    expect(adviceWords(every, length)).toBeUndefined();
  });

  test("too often and too seldom are told", () => {
    expect(adviceWords(1, day)).toContain("every 15 s shows the same course");
    expect(adviceWords(3600, 2 * hour)).toContain("2 values in 2 h");
  });

  test("samples are series times intervals, begun ones included; disk is taken twice", () => {
    const facts = { series: 20, everySeconds: 15, forSeconds: 100, bytesPerSample: 1.5, serverSecondsEach: 0.003 };
    expect(runCost(facts)).toEqual({ samples: 140, bytes: 420, serverShare: 0.0002 });
    expect(runCost({ ...facts, serverSecondsEach: Number.NaN }).serverShare).toBeNull();
  });

  test("what is over the budget is said with both figures", () => {
    const cost = { samples: 5_000_001, bytes: 1000, serverShare: 0.01 };
    expect(overBudget(cost, 0.25)).toEqual([
      "5,000,001 samples; more than 5,000,000 are asked about",
      "25 % of a core there; more than 5 % of a core are asked about",
    ]);
    expect(overBudget({ ...cost, samples: 1 }, null)).toEqual([]);
  });
});

describe("a run's lines", () => {
  test("numbers of a line, worked out by hand", () => {
    const values = [null, 4, 1, 3, 2, null];
    const line = { of: "a", tags: {}, unit: "W", values, min: 1, mean: 2.5, max: 4, last: null } as Line;
    // Type 7 of 1, 2, 3, 4 at 0.95: 3 + 0.85 × (4 − 3).
    expect(numbersOf(line, false)).toEqual({
      ...{ of: "a", tags: {}, unit: "W", least: 1, mean: 2.5, most: 4, last: 2, sum: null, change: -2 },
      p95: expect.closeTo(3.85, 12),
    });
    const none = { ...line, values: [null], min: null, mean: null, max: null };
    expect(numbersOf(none, true)).toMatchObject({ last: null, p95: null, change: null, sum: null });
  });

  test("a total that restarted grew by what both parts grew; its first step needs the sample before", () => {
    const rows = [-1, 0, 1, 2, 3, 4].map(
      (s, i) => [s * 1000 + 10_000, [100, 200, 300, 0, 50, 250][i] as number] as const,
    );
    const { lines, reading } = readRun(
      { everySeconds: 1, sentences: [{ counter: "disk.written", where: [{ tag: "gone", is: ["x"] }] }] },
      [series({}, rows)],
      10_000,
      14_000,
    );
    expect(lines).toHaveLength(1);
    // 100 in each of the first two seconds, 50 and 200 after the restart; it told of nothing while it restarted.
    expect(lines[0]).toMatchObject({ unit: "By/s", most: 200, sum: { unit: "By" } });
    expect(lines[0]?.sum?.value).toBeGreaterThanOrEqual(350);
    expect(reading.lines[0]?.values.some((value) => value !== null)).toBe(true);
  });

  test("sentences of a list are called a to z, then aa", () => {
    const many = Array.from({ length: 28 }, () => ({ counter: "x" }));
    expect(Object.keys(namedSentences(many)).slice(24)).toEqual(["y", "z", "aa", "ab"]);
    expect(Object.keys(namedSentences({ busy: { counter: "x" } }))).toEqual(["busy"]);
  });

  test("of each interval the newest sample stays", () => {
    const column = { timeMs: Float64Array.of(0, 1000, 4999, 5000, 12_000), value: Float64Array.of(1, 2, 3, 4, 5) };
    expect([...thinned(column, 5000).value]).toEqual([3, 4, 5]);
    expect(thinned(column, 1).timeMs).toBe(column.timeMs);
  });
});

describe("runs beside each other", () => {
  const line = (of: string, mean: number | null, sum: number | null = null): LineNumbers => ({
    ...{ of, tags: {}, unit: "By/s", least: mean, mean, most: mean, last: mean, p95: mean, change: 0 },
    sum: sum === null ? null : { value: sum, unit: "By" },
  });

  test("totals by their growth, others by their mean; lines of one only apart", () => {
    const first = [line("written", 5, 1000), line("busy", 0.2), line("gone", 1)];
    const second = [line("written", 5, 2100), line("busy", 0.21), line("new", 1)];
    const { lines, onlyFirst, onlySecond } = besideRuns(first, second);
    expect(lines.map(besideWords)).toEqual(["2.1 times the run before", "about as in the run before"]);
    expect([...onlyFirst, ...onlySecond].map(({ of }) => of)).toEqual(["gone", "new"]);
  });

  test("laid on the same start, on the coarser of their steps, the earlier one marked", () => {
    const reading = (from: number, stepMs: number, values: readonly (number | null)[]) =>
      ({ from, stepMs, count: values.length, tier: "raw", notes: [], lines: [{ ...lineOf("a"), values }] }) as never;
    const lineOf = (of: string) => ({ of, tags: {}, unit: "W", last: 1, min: 1, mean: 1, max: 1 });
    const laid = laidOver(
      [
        { name: "run before", startedAtMs: 10_500, reading: reading(10_000, 1000, [1, 2, 3, 4, 5]) },
        { name: "this one", startedAtMs: 90_000, reading: reading(90_000, 2000, [7, null, 9]) },
      ],
      1_000_000,
    );
    expect(laid).toMatchObject({ from: 1_000_000, stepMs: 2000, count: 3 });
    expect(laid.lines.map(({ earlier, values }) => [earlier, values])).toEqual([
      ["run before", [2.5, 4.5, null]],
      [undefined, [7, null, 9]],
    ]);
  });

  test("nothing before has no factor", () => {
    const words = (before: number | null, after: number | null) =>
      besideRuns([line("a", before)], [line("a", after)]).lines.map(besideWords)[0];
    expect(words(0, 0)).toBe("nothing, as before");
    expect(words(0, 5000)).toBe("5 kB/s, 0 B/s the run before");
    expect(words(null, 1)).toBe("not known in both");
  });
});

describe("runs as files", () => {
  const odd = [0, -0, 1.5, Number.NaN, Number.POSITIVE_INFINITY, 0.1 + 0.2, -1e300];

  test("a series comes back as it was, whatever its values", () => {
    const one = series(
      { falls: 2 ** 32 },
      odd.map((value, i) => [1_795_000_000_000 + i * 1000 + (i % 2), value] as const),
    );
    const back = seriesOfFile(JSON.parse(JSON.stringify(filedSeries(one))));
    expect(back).toEqual(one);
    expect(Object.is(back.column.value[1], -0)).toBe(true);
  });

  test("columns that do not fit are refused in words", () => {
    const filed = {
      ...filedSeries(
        series({}, [
          [1000, 1],
          [2000, 2],
        ]),
      ),
    };
    expect(() => seriesOfFile({ ...filed, values: [1] })).toThrow("disk.written: 2 times and 1 values");
    expect(() => seriesOfFile({ ...filed, afterMs: [1000, 0] })).toThrow("time 2 is not after the one before");
    expect(() => seriesOfFile({ ...filed, values: [1, "x"] })).toThrow("value 2 is no number");
  });

  test("a counter log as Windows' own tool writes it", () => {
    // The form is relog's and typeperf's (PDH-CSV 4.0, figures.md); written by hand.
    const log =
      '"(PDH-CSV 4.0) (W. Europe Standard Time)(-60)","\\\\DESK\\Processor(_Total)\\% Processor Time","\\\\DESK\\Memory\\Available Bytes"\r\n' +
      '"11/23/2026 17:00:00.250"," ","8589934592"\r\n"11/23/2026 17:00:15.250","7.5","8589934592"\r\n"11/23/2026 17:00:30.250","9.5","8589930000"\r\n';
    const run = runOfText(bytes(log), "desk");
    expect(run.document).toMatchObject({ name: "desk", everySeconds: 15 });
    expect(run.startedAtMs).toBe(Date.UTC(2026, 10, 23, 16, 0, 0, 250));
    const busy = run.series.find(({ unit }) => unit !== "By");
    expect([...(busy?.column.value ?? [])].map((v) => Math.round(v * 1000) / 1000)).toHaveLength(2);
  });

  test("a table, and OpenMetrics, out of order and with one time twice", () => {
    const table = runOfText(
      bytes("time,temperature\n2026-11-23T16:00:02Z,3\n2026-11-23T16:00:00Z,1\n2026-11-23T16:00:01Z,2\n"),
      "attic",
    );
    expect([...(table.series[0]?.column.value ?? [])]).toEqual([1, 2, 3]);
    expect(table.series[0]?.tags).toEqual({ machine: "file" });
    const page = runOfText(
      bytes('# TYPE lamp gauge\nlamp{room="attic"} 1 1795000000\nlamp{room="attic"} 2 1795000005\n# EOF\n'),
      "lamp",
    );
    expect(page).toMatchObject({ document: { everySeconds: 5, sentences: [{ counter: "lamp" }] } });
  });

  test("what leaves a doubt, what has no time and what is nothing of it is said", () => {
    expect(() => runOfText(bytes("when,lux\n03/04/2026 10:00,1\n04/05/2026 10:01,2\n"), "x")).toThrow(TableDoubts);
    expect(() => runOfText(bytes("lamp 1\n"), "x")).toThrow("without a time");
    expect(() => runOfText(bytes("Dear Ines,\nhow are you today?\n"), "x")).toThrow("no counter log, no table");
    expect(() => runOfText(bytes("# EOF\n"), "x")).toThrow("no sample");
  });
});
