import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { PageReader } from "../../core/formats/exposition/page-reader.ts";
import type { Source } from "../../core/sources/source.ts";
import { Store } from "../store/store.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { defaultLimits } from "./intake-limit-rows.ts";
import { SeriesBudget, SeriesTable } from "./series-table.ts";

let db: TestDatabase;
let store: Store;
const nowMs = 1_795_449_600_000;

beforeAll(async () => {
  db = await testDatabase();
  store = await Store.open(db.database, { now: () => nowMs });
});
afterAll(async () => {
  await store.close();
  await db.drop();
});

const ids = new Map<string, number>();
function idOf(machine: string): number {
  const known = ids.get(machine) ?? ids.size + 1;
  ids.set(machine, known);
  return known;
}
const source = (machine: string, more: Partial<Source> = {}): Source => ({
  id: idOf(machine),
  kind: "pull",
  name: machine,
  machine,
  intervalMs: 5000,
  tellsSilence: true,
  address: null,
  trust: { kind: "system" },
  device: null,
  credentials: "none",
  pause: null,
  senderVersion: null,
  tags: {},
  take: [],
  csv: null,
  ...more,
});

/** A source with its reader: `say` reads a page and stores it. */
function sender(of: Source, limits = defaultLimits, budget = new SeriesBudget()) {
  const reader = new PageReader("text");
  const table = new SeriesTable(store, of, budget, { intervalMs: 5000, lateMs: 0 });
  return (text: string, atMs = nowMs) =>
    table.write(reader.series, reader.read(new TextEncoder().encode(text)), limits, { nowMs: atMs });
}

/** Stores a page where nothing is to be decided about it; says of the newest samples that they are. */
function writeKnown(of: Source, text: string, isAhead = (_id: number, _timeMs: number) => true) {
  const reader = new PageReader("text");
  const table = new SeriesTable(store, of, new SeriesBudget(), undefined);
  const page = reader.read(new TextEncoder().encode(text));
  return table.writeKnown(reader.series, page, defaultLimits, { nowMs, isAhead });
}

/** Every page must add up: found is taken and left out together. */
const sum = (leftOut: Readonly<Record<string, number>>) => Object.values(leftOut).reduce((all, n) => all + n, 0);
const valuesOf = async (counter: string, machine: string) => {
  const series = store.series.ofCounter(counter).filter(({ tags }) => tags["machine"] === machine);
  const columns = await store.read(
    series.map(({ id }) => id),
    nowMs - 60_000,
    nowMs + 60_000,
  );
  return series.map(({ tags }, i) => [tags, [...(columns[i]?.value ?? [])]]);
};

describe("names", () => {
  test("the source's tags and machine stand over the page's; a machine that the page names is kept as what was sent", async () => {
    await sender(source("gate", { tags: { site: "quay" } }))(
      'a{site="elsewhere",machine="inner",GATE="x"} 1\na{machine="GATE"} 2\n',
    );
    expect(await valuesOf("a", "gate")).toEqual([
      [{ site: "quay", "sent.machine": "inner", GATE: "x", machine: "gate" }, [1]],
      [{ site: "quay", machine: "gate" }, [2]],
    ]);
  });
  test("a collector's names are the catalogue's, with unit and kind; a name of nobody's stays", async () => {
    await sender(source("hive", { kind: "collector" }))('system_cpu_time{mode="user"} 5\nmy_own_thing 1\n');
    const [cpu] = store.series.ofCounter("system.cpu.time");
    expect(cpu).toMatchObject({ unit: "s", kind: "total", tags: { mode: "user", machine: "hive" } });
    expect(store.series.ofCounter("my_own_thing")).toHaveLength(1);
    await sender(source("stream"))("system_cpu_time 5\n");
    expect(store.series.ofCounter("system_cpu_time")).toHaveLength(1); // another's page means what it says
  });
  test("values are scaled as the rules say, each time", async () => {
    const say = sender(source("scaled", { take: [{ do: "scale", counter: "sectors", factor: 512, unit: "By" }] }));
    await say("sectors 2\n");
    await say("sectors 3\n", nowMs + 1000);
    expect(await valuesOf("sectors", "scaled")).toEqual([[{ machine: "scaled" }, [1024, 1536]]]);
  });
});

describe("counting", () => {
  test("what rules leave, what becomes the same, and what has no number add up with what is taken, in every page", async () => {
    const say = sender(
      source("desk", {
        take: [
          { do: "leave", counter: "noise" },
          { do: "drop tag", counter: "*", tag: "pid" },
        ],
      }),
    );
    const page = 'noise 1\nload{pid="1"} 1\nload{pid="2"} 2\nheat NaN\nheat{room="attic"} 9\n';
    for (let i = 0; i < 3; i++) {
      const answer = await say(page, nowMs + i * 1000);
      expect(answer).toEqual({
        found: 5,
        taken: 2,
        leftOut: { "no number (NaN)": 1, "left by a rule": 1, "the same as another series after the rules": 1 },
      });
      expect(answer.taken + sum(answer.leftOut)).toBe(answer.found);
    }
    expect(await valuesOf("load", "desk")).toEqual([[{ machine: "desk" }, [1, 1, 1]]]); // the first of them, always
  });
  test("two pages that bring the same new series at once store it once each, and add up", async () => {
    const say = sender(source("twice"));
    const [one, two] = await Promise.all([say("fresh 1\n"), say("fresh 2\n", nowMs + 1000)]);
    expect([one, two]).toEqual([
      { found: 1, taken: 1, leftOut: {} },
      { found: 1, taken: 1, leftOut: {} },
    ]);
    expect(await valuesOf("fresh", "twice")).toEqual([[{ machine: "twice" }, [1, 2]]]);
  });
  test("new series are bounded a minute and a source; known ones go on", async () => {
    const limits = { ...defaultLimits, newSeriesPerMinute: 10, seriesPerSource: 12 };
    const say = sender(source("churn"), limits);
    const page = (from: number, n: number) =>
      Array.from({ length: n }, (_, i) => `churn{n="${from + i}"} 1\n`).join("");
    expect(await say(page(0, 15))).toEqual({
      found: 15,
      taken: 10,
      leftOut: { "more than 10 new series in a minute": 5 },
    });
    expect(await say(page(0, 15), nowMs + 1000)).toMatchObject({ taken: 10 });
    expect(await say(page(0, 15), nowMs + 61_000)).toEqual({
      found: 15,
      taken: 12,
      leftOut: { "more than 12 series of one source": 3 },
    });
  });
  test("how many a source has outlives the server, and each is counted once however many readers read it", async () => {
    const limits = { ...defaultLimits, seriesPerSource: 20 };
    const page = (from: number, n: number) => Array.from({ length: n }, (_, i) => `kept{n="${from + i}"} 1\n`).join("");
    expect(await sender(source("kept"), limits)(page(0, 20))).toEqual({ found: 20, taken: 20, leftOut: {} });
    // Other readers of the same source, as for pages that come at the same time.
    for (let i = 1; i < 4; i++)
      expect(await sender(source("kept"), limits)(page(0, 20), nowMs + i * 1000)).toMatchObject({ taken: 20 });
    const before = store;
    store = await Store.open(db.database, { now: () => nowMs });
    try {
      expect(await sender(source("kept"), limits)(page(10, 20), nowMs + 9000)).toEqual({
        found: 20,
        taken: 10,
        leftOut: { "more than 20 series of one source": 10 },
      });
    } finally {
      store = before;
    }
  });
  test("what sends may not write to another source's series of its machine, until that is removed", async () => {
    const ours = source("shared");
    await sender(ours)("system_load 1\n");
    const other = { ...ours, id: 9001, kind: "push" as const };
    expect(await sender(other)("system_load 99\nmine 1\n", nowMs + 1000)).toEqual({
      found: 2,
      taken: 1,
      leftOut: { "of another source: what sends writes to its own series only": 1 },
    });
    expect(await valuesOf("system_load", "shared")).toEqual([[{ machine: "shared" }, [1]]]);
    const reader = new PageReader("text");
    const after = new SeriesTable(
      store,
      other,
      new SeriesBudget(),
      { intervalMs: 5000, lateMs: 0 },
      (id) => id === 9001,
    );
    expect(
      await after.write(reader.series, reader.read(new TextEncoder().encode("system_load 2\n")), defaultLimits, {
        nowMs: nowMs + 2000,
      }),
    ).toMatchObject({ taken: 1 });
  });
  test("what sends may write a day back, more where its source says so", async () => {
    const page = `back 1 ${nowMs - 90_000_000}\nback 2 ${nowMs - 80_000_000}\n`;
    expect(await sender(source("back", { kind: "push" }))(page)).toEqual({
      found: 2,
      taken: 1,
      leftOut: { "more than a day back, as its settings have it": 1 },
    });
    expect(await sender(source("further", { kind: "push", backDays: 7 }))(page)).toEqual({
      found: 2,
      taken: 2,
      leftOut: {},
    });
    expect(await sender(source("asked", { kind: "pull" }))(page)).toEqual({ found: 2, taken: 2, leftOut: {} });
    const reader = new PageReader("text");
    const earlier = new SeriesTable(store, source("told earlier", { kind: "push" }), new SeriesBudget(), {
      intervalMs: 5000,
      lateMs: 0,
    });
    expect(
      await earlier.write(reader.series, reader.read(new TextEncoder().encode(page)), defaultLimits, {
        nowMs,
        heardMs: nowMs - 80_000_000,
      }),
    ).toMatchObject({ taken: 2 });
  });
  test("series that were there before do not count as new", async () => {
    await sender(source("again"))("b 1\nc 1\n");
    const limits = { ...defaultLimits, newSeriesPerMinute: 1 };
    expect(await sender(source("again"), limits)("b 2\nc 2\n", nowMs + 1000)).toEqual({
      found: 2,
      taken: 2,
      leftOut: {},
    });
  });
  test("times that may not be are counted with the rest", async () => {
    expect(await sender(source("late"))(`old 1 5\nnow 1 ${nowMs}\nahead 1 ${nowMs + 3_600_000}\n`)).toEqual({
      found: 3,
      taken: 1,
      leftOut: { "older than retention": 1, "ahead of time": 1 },
    });
  });
});

test("a series that the store has forgotten is made anew when it comes back", async () => {
  const say = sender(source("mast"));
  await say("beacon 1\n");
  const [before] = store.series.ofCounter("beacon");
  await store.series.remove([before?.id as number]);
  expect(await say("beacon 2\n", nowMs + 1000)).toMatchObject({ taken: 1, leftOut: {} });
  const [after] = store.series.ofCounter("beacon");
  expect(after?.id).not.toBe(before?.id);
  expect(await valuesOf("beacon", "mast")).toEqual([[{ machine: "mast" }, [2]]]);
});

describe("what leaves nothing to decide", () => {
  const lamp = source("lamp", { kind: "push", take: [{ do: "leave", counter: "dark" }] });
  test("is stored as always, with what rules leave", async () => {
    await sender(lamp)(`lit 1 ${nowMs - 3000}\n`);
    const asked: [number, number][] = [];
    const isAhead = (id: number, timeMs: number) => asked.push([id, timeMs]) > 0;
    expect(await writeKnown(lamp, `lit 2 ${nowMs - 2000}\nlit 3\ndark 1\n`, isAhead)).toEqual({
      ...{ found: 3, taken: 2, leftOut: { "left by a rule": 1 } },
    });
    expect(await valuesOf("lit", "lamp")).toEqual([[{ machine: "lamp" }, [1, 2, 3]]]);
    const [lit] = store.series.ofCounter("lit");
    expect(asked).toEqual([
      [lit?.id, nowMs - 2000],
      [lit?.id, nowMs],
    ]);
  });
  test("is none of it where one series is new, another source's or claimed by none, or one sample is not ahead", async () => {
    const size = store.series.size;
    const other = source("another lamp", { kind: "push", machine: "lamp" });
    expect(writeKnown(lamp, "lit 9\nnew 9\n")).toBeUndefined();
    expect(writeKnown(other, "lit 9\n")).toBeUndefined();
    await store.series.resolve([{ counter: "nobody", tags: { machine: "lamp" }, unit: "", kind: "level" }]);
    expect(writeKnown(lamp, "nobody 9\n")).toBeUndefined();
    expect(writeKnown(lamp, `lit 9 ${nowMs + 1}\nlit 9 ${nowMs + 2}\n`, (_, ms) => ms !== nowMs + 2)).toBeUndefined();
    expect(await valuesOf("lit", "lamp")).toEqual([[{ machine: "lamp" }, [1, 2, 3]]]);
    expect(store.series.size).toBe(size + 1);
  });
});
