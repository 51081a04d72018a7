import { crc32c } from "@node-rs/crc32";
import { execFile } from "node:child_process";
import { join } from "node:path";
import { promisify } from "node:util";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { writeChunkBlock } from "../../core/chunk/chunk-block.ts";
import { batchOf } from "../../core/series/batch.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { projectRoot } from "../project-root.ts";
import { examineBlocks } from "./examine.ts";
import { listSetAside } from "./quarantine-rows.ts";
import { seal, unseal } from "./seal.ts";
import { slotMs } from "./slots.ts";
import { Store } from "./store.ts";

const dayMs = 86_400_000;
const start = 20_000 * dayMs;
let db: TestDatabase;
let store: Store;
let nowMs = start;
const open = () => Store.open(db.database, { now: () => nowMs });
beforeEach(async () => {
  nowMs = start + 3 * slotMs;
  db = await testDatabase();
  store = await open();
  await store.series.resolve(
    [1, 2].map((n) => ({
      counter: "system.memory.usage",
      tags: { machine: `m${n}` },
      unit: "By",
      kind: "level" as const,
    })),
  );
});
afterEach(async () => {
  await store.close();
  await db.drop();
});

const reopen = async () => {
  await store.close();
  store = await open();
};
/** Turns one bit in the middle of a payload. */
const damage = (table: string, condition: string) =>
  db.database.query(
    `update ${table} set payload = set_byte(payload, length(payload) / 2, get_byte(payload, length(payload) / 2) # 16) where ${condition}`,
  );
const values = async (id: number) => [...((await store.read([id], 0, 1e15))[0]?.value ?? [])];
const origins = async () => (await listSetAside(db.database)).rows.map(({ origin, reason }) => [origin, reason]);

describe("the seal of a block", () => {
  // RFC 3720 §B.4: CRC-32C of 32 bytes of zeroes, of ones, and of 0 to 31.
  test.each([
    [new Uint8Array(32), 0x8a9136aa],
    [new Uint8Array(32).fill(0xff), 0x62a8ab43],
    [Uint8Array.from({ length: 32 }, (_, i) => i), 0x46dd794e],
  ])("its checksum is CRC-32C (RFC 3720 §B.4), %#", (bytes, expected) => expect(crc32c(bytes)).toBe(expected));
  test("what is sealed is what is unsealed; every bit that turns is seen", () => {
    const block = writeChunkBlock({
      timeMs: Float64Array.of(start, start + 5000, start + 10_000),
      value: Float64Array.of(1, 2.5, 400),
    });
    const stored = seal(block);
    expect(Buffer.from(stored).subarray(0, unseal(Buffer.from(stored)))).toHaveLength(block.length);
    const copy = Buffer.from(stored);
    expect(copy.subarray(0, unseal(copy))).toEqual(Buffer.from(block));
    for (let bit = 0; bit < stored.length * 8; bit++) {
      // the mark itself: without it the block is one of before, whose reader sees the bytes that are too many
      if (bit === 7) continue;
      const turned = Buffer.from(stored);
      turned[bit >> 3] = (turned[bit >> 3] as number) ^ (1 << (bit & 7));
      expect(() => unseal(turned), `bit ${bit}`).toThrow(
        /^byte 0: its checksum is [0-9a-f]{8}, [0-9a-f]{8} was stored: it is damaged$/,
      );
    }
  });
  test("blocks of before have none and are read as they are", () => {
    const block = Buffer.from(writeChunkBlock({ timeMs: Float64Array.of(start), value: Float64Array.of(1) }));
    expect(unseal(Buffer.from(block))).toBe(block.length);
  });
});

test("a journal row that cannot be read is set aside with what leans on it; the other segments are there, and the server starts", async () => {
  await store.write(batchOf([[1, start, 1]]));
  await store.write(batchOf([[1, start + 1000, 2]]));
  await store.write(batchOf([[1, start + 2000, 3]]));
  await reopen(); // a new process writes a segment of its own
  await store.write(batchOf([[1, start + 3000, 4]]));
  await damage("journal", "seq = 1");
  await reopen();
  expect(await values(1)).toEqual([1, 4]);
  expect(await origins()).toEqual([
    ["journal", "it leans on a row before it that cannot be read"],
    ["journal", expect.stringMatching(/checksum is .* it is damaged/)],
  ]);
  expect((await db.database.query("select from journal")).rowCount).toBe(2);
  await store.write(batchOf([[1, start + 4000, 5]]));
  await store.compact(start + 10 * slotMs);
  expect(await values(1)).toEqual([1, 4, 5]);
});

test("a journal row of an unknown version is told apart from a damaged one", async () => {
  await store.write(batchOf([[1, start, 1]]));
  const { rows } = await db.database.query<{ payload: Buffer }>("select payload from journal");
  const block = (rows[0] as { payload: Buffer }).payload;
  const inner = block.subarray(0, unseal(block));
  inner[0] = 99;
  await db.database.query("update journal set payload = $1::bytea", [seal(inner)]);
  await reopen();
  expect(await origins()).toEqual([["journal", "byte 0: version 99 is not known, 2 is"]]);
});

describe("a chunk that cannot be read", () => {
  beforeEach(async () => {
    for (const id of [1, 2])
      await store.write(
        batchOf([
          [id, start, id],
          [id, start + (id === 1 ? 5000 : 7000), id],
          [id, start + slotMs, 10 + id],
        ]),
      );
    nowMs = start + 10 * slotMs;
    await store.compact();
    await reopen();
  });
  test("is left out of readings and set aside; its neighbours are read", async () => {
    await damage("chunk", `series_id = 1 and slot = ${start / slotMs}`);
    expect(await values(1)).toEqual([11]);
    expect(await values(2)).toEqual([2, 2, 12]);
    expect(await listSetAside(db.database)).toMatchObject({
      count: 1,
      rows: [
        { origin: "chunk", place: { series: 1, slot: start / slotMs }, counter: "system.memory.usage", machine: "m1" },
      ],
    });
    expect((await db.database.query("select from chunk where series_id = 1")).rowCount).toBe(1);
  });
  test("does not stop compaction of its slot", async () => {
    await damage("chunk", `series_id = 1 and slot = ${start / slotMs}`);
    await store.write(
      batchOf([
        [1, start + 60_000, 6],
        [2, start + 60_000, 7],
      ]),
    );
    await store.compact();
    await reopen();
    expect(await values(1)).toEqual([6, 11]);
    expect(await values(2)).toEqual([2, 2, 7, 12]);
    expect(await origins()).toEqual([["chunk", expect.stringContaining("damaged")]]);
  });
});

test("times that chunks share, damaged: they and what leans on them are set aside", async () => {
  await store.write(
    batchOf([
      [1, start, 1],
      [2, start, 1],
      [1, start + 5000, 2],
      [2, start + 5000, 2],
    ]),
  );
  nowMs = start + 10 * slotMs;
  await store.compact();
  await reopen();
  await damage("chunk_times", "true");
  expect(await values(1)).toEqual([]);
  expect(await values(2)).toEqual([]);
  expect((await origins()).map(([origin]) => origin).sort()).toEqual(["chunk", "chunk", "chunk_times"]);
});

test("the doctor looks at every block, changes nothing, and tells what is damaged and what was set aside", async () => {
  await store.write(
    batchOf([
      [1, start, 1],
      [2, start, 2],
    ]),
  );
  nowMs = start + 11 * slotMs + 600_000;
  await store.compact();
  await store.write(batchOf([[2, nowMs, 2]]));
  expect(await examineBlocks(db.database)).toEqual({ rows: 4, damaged: [] });
  await damage("chunk", `series_id = 2 and slot = ${start / slotMs}`);
  const doctor = () =>
    promisify(execFile)(
      process.execPath,
      [join(projectRoot, "dist/server/command.js"), JSON.stringify({ command: "doctor" })],
      { env: { NUBREL_DATABASE_URL: db.url } },
    ).catch((error: { stdout: string; code: number }) => error);
  expect(await doctor()).toMatchObject({
    code: 1,
    stdout: expect.stringMatching(
      /chunk: 2 blocks looked at\n[\s\S]*chunk 2\/240000: byte 0: its checksum is .*\n1 of 4 blocks are damaged\. They are set aside when they are read next/,
    ),
  });
  expect(await values(1)).toEqual([1]);
  await values(2);
  expect(await doctor()).toMatchObject({
    code: 1,
    stdout: expect.stringMatching(
      /set aside 20.*: chunk \{"slot":240000,"series":2\}, system\.memory\.usage of m2: .*\nAll 3 blocks can be read\.\n1 were set aside before\./,
    ),
  });
});

test("a rollup that cannot be read is set aside and made anew from the samples", async () => {
  for (let i = 0; i < 24; i++) await store.write(batchOf([[1, start + i * 3_600_000, i]]));
  nowMs = start + 2 * dayMs;
  await store.maintain();
  const payload = async () =>
    (await db.database.query<{ payload: Buffer }>(`select payload from rollup_5m where period = ${start / dayMs}`))
      .rows[0]?.payload;
  const before = await payload();
  expect(before).toBeDefined();
  await damage("rollup_5m", `period = ${start / dayMs}`);
  nowMs = start + 30 * dayMs - dayMs;
  await store.maintain();
  expect(await origins()).toEqual([["rollup_5m", expect.stringContaining("damaged")]]);
  await store.maintain();
  expect(await payload()).toEqual(before);
});
