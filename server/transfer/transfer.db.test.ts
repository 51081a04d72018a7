import { Readable } from "node:stream";
import { afterEach, beforeEach, expect, test } from "vitest";
import { sampleFormats } from "../../core/formats/samples/sample-format.ts";
import { batchOf } from "../../core/series/batch.ts";
import { seeded } from "../../core/testing/random.ts";
import { slotMs } from "../store/slots.ts";
import { Store } from "../store/store.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { exportSamples } from "./export-samples.ts";
import { defaultLimits } from "../sources/intake-limit-rows.ts";
import { importSamples } from "./import-samples.ts";

const start = 100_000 * slotMs;
const now = () => start + 3 * slotMs;
let databases: TestDatabase[];
let store: Store;
beforeEach(async () => {
  databases = [await testDatabase()];
  store = await Store.open((databases[0] as TestDatabase).database, { now });
});
afterEach(async () => {
  await store.close();
  for (const db of databases) await db.drop();
});

const all = { fromMs: 0, toMs: 1e15, counter: "*", machine: "*" };

async function everything(of: Store): Promise<ReadonlyMap<string, readonly (readonly [number, number])[]>> {
  const found = new Map<string, readonly (readonly [number, number])[]>();
  for (const { id, counter, tags, unit, kind } of of.series.all()) {
    const [column] = await of.read([id], 0, 1e15);
    found.set(
      JSON.stringify([counter, Object.entries(tags).sort(), unit, kind]),
      [...(column?.timeMs ?? [])].map((time, i) => [time, column?.value[i] as number]),
    );
  }
  return new Map([...found].sort());
}

test.each(sampleFormats)("what is exported as %s is imported to the same samples, twice over", async (format) => {
  const random = seeded(31);
  const ids = await store.series.resolve([
    { counter: "system.cpu.time", tags: { machine: "vault", mode: "user" }, unit: "s", kind: "total" },
    { counter: "system.cpu.time", tags: { machine: "vault", mode: 'odd "mode", {it}' }, unit: "s", kind: "total" },
    { counter: "hw.temperature", tags: { machine: "hive" }, unit: "Cel", kind: "level" },
  ]);
  await store.write(
    batchOf(
      Array.from(
        { length: 3000 },
        (_, i) =>
          [
            ids[i % 3] as number,
            start + i * 5000,
            i % 500 === 7 ? ([Number.NaN, Number.POSITIVE_INFINITY, -0][i % 3] as number) : random() * 1000,
          ] as const,
      ),
    ),
  );
  await store.compact();
  const pieces: string[] = [];
  expect(await exportSamples(store, { format, ...all }, async (text) => void pieces.push(text))).toEqual({
    series: 3,
    samples: 3000,
  });

  databases.push(await testDatabase());
  const other = await Store.open((databases[1] as TestDatabase).database, { now });
  try {
    for (const round of [1, 2]) {
      expect(await importSamples(other, format, Readable.from([pieces.join("")])), `round ${round}`).toEqual({
        taken: 3000,
        refused: {},
      });
      expect(await everything(other)).toEqual(await everything(store));
    }
  } finally {
    await other.close();
  }
});

test("a window and patterns choose what is exported", async () => {
  const ids = await store.series.resolve(
    ["vault", "hive"].map((machine) => ({
      counter: "hw.temperature",
      tags: { machine },
      unit: "Cel",
      kind: "level" as const,
    })),
  );
  await store.write(
    batchOf([
      [ids[0] as number, start, 1],
      [ids[0] as number, start + 1000, 2],
      [ids[1] as number, start, 3],
    ]),
  );
  let text = "";
  await exportSamples(
    store,
    { format: "csv", fromMs: start + 1, toMs: start + 5000, counter: "hw.*", machine: "va*" },
    async (piece) => {
      text += piece;
    },
  );
  expect(text).toBe(
    `time,counter,unit,kind,tags,value\r\n${new Date(start + 1000).toISOString()},hw.temperature,Cel,level,"{""machine"":""vault""}",2\r\n`,
  );
});

test("an import holds to the limit of series: what is known goes on, new ones beyond it are counted, and none belongs to a source", async () => {
  const line = (n: number, more = "") => `a{machine="vault",n="${n}"} ${n}${more} ${(start + n * 1000) / 1000}\n`;
  const text = (from: number, to: number) =>
    `# TYPE a gauge\n${Array.from({ length: to - from }, (_, i) => line(from + i)).join("")}# EOF\n`;
  const limits = { ...defaultLimits, seriesPerSource: 10, newSeriesPerMinute: 10 };
  expect(await importSamples(store, "openmetrics", Readable.from([text(0, 12)]), limits)).toEqual({
    taken: 10,
    refused: { "more than 10 series in one import": 2 },
  });
  expect(await importSamples(store, "openmetrics", Readable.from([text(5, 14)]), limits)).toEqual({
    taken: 9,
    refused: {},
  });
  expect((await everything(store)).size).toBe(14);
  expect(store.series.all().every(({ sourceId }) => sourceId === undefined)).toBe(true);
});

test("a file that cannot be read further says where; what stood before is stored; what is too old is counted", async () => {
  const text = `# TYPE a gauge\na{machine="vault"} 1 ${start / 1000}\na{machine="vault"} 2 5\na{machine="vault"} nothing ${start / 1000}\n# EOF\n`;
  await expect(importSamples(store, "openmetrics", Readable.from([text]))).rejects.toThrow(
    'line 4, column 20: "nothing" is not a number. The 1 samples before it are stored; correct the file and import it again: a sample that is there already is not doubled.',
  );
  expect(store.health.refused).toEqual({ "older than retention": 1 });
  expect((await everything(store)).size).toBe(1);
});
