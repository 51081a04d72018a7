import { copyFileSync, mkdtempSync, readdirSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { expect, test } from "vitest";
import { BlockWriter } from "../../core/chunk/cursor.ts";
import { migrate } from "../db/migrate.ts";
import { projectRoot } from "../project-root.ts";
import { testDatabase } from "../testing/test-database.ts";
import { slotMs } from "./slots.ts";
import { Store } from "./store.ts";

const start = 100_000 * slotMs;

/** Blocks as the first version wrote them: a chunk of whole numbers, a journal row of one answer. */
function firstChunk(times: readonly number[], values: readonly number[]): Buffer {
  const out = new BlockWriter();
  out.byte(1);
  out.varint(times.length);
  let before = 0;
  let stepBefore = 0;
  for (const time of times) {
    out.zigzag(time - before - stepBefore);
    stepBefore = time - before;
    before = time;
  }
  out.byte(1);
  let last = 0;
  for (const value of values) {
    out.zigzag(value - last);
    last = value;
  }
  return Buffer.from(out.finish());
}

function firstJournal(timeMs: number, ids: readonly number[], values: readonly number[]): Buffer {
  const out = new BlockWriter();
  out.byte(1);
  out.varint(ids.length);
  out.varint(ids.length);
  out.float64(timeMs);
  let before = 0;
  for (const id of ids) {
    out.zigzag(id - before);
    before = id;
  }
  for (const value of values) out.float64(value);
  return Buffer.from(out.finish());
}

test("samples that the first version stored are there after the upgrade, and its tables are gone", async () => {
  const db = await testDatabase({ migrated: false });
  const folder = mkdtempSync(join(tmpdir(), "nubrel-migrations-"));
  const migrations = join(projectRoot, "server/db/migrations");
  for (const file of readdirSync(migrations).sort().slice(0, 3))
    copyFileSync(join(migrations, file), join(folder, file));
  try {
    await migrate(db.database, folder);
    const day = Math.floor(start / 86_400_000);
    await db.database.query(
      `create table chunk_day_${day} partition of chunk for values from (${day * 86_400_000}) to (${(day + 1) * 86_400_000})`,
    );
    await db.database.query("insert into chunk (slot_ms, series_id, samples, payload) values ($1, 1, 3, $2)", [
      start,
      firstChunk([start, start + 5000, start + 10_000], [7, 9, -4]),
    ]);
    await db.database.query("insert into journal (slot_ms, samples, payload) values ($1, 2, $2)", [
      start + slotMs,
      firstJournal(start + slotMs, [1, 2], [0.5, Math.PI]),
    ]);
    await migrate(db.database);
    const store = await Store.open(db.database, { now: () => start + 2 * slotMs });
    const columns = (await store.read([1, 2], 0, 1e15)).map(({ timeMs, value }) =>
      [...timeMs].map((time, i) => [time, value[i]]),
    );
    expect(columns).toEqual([
      [
        [start, 7],
        [start + 5000, 9],
        [start + 10_000, -4],
        [start + slotMs, 0.5],
      ],
      [[start + slotMs, Math.PI]],
    ]);
    expect(
      (await db.database.query("select to_regclass('first_chunk') as chunk, to_regclass('first_journal') as journal"))
        .rows,
    ).toEqual([{ chunk: null, journal: null }]);
    await store.close();
  } finally {
    rmSync(folder, { recursive: true });
    await db.drop();
  }
});
