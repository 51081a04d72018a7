import { readFirstChunkBlock, readFirstJournalBlock } from "../../core/chunk/first-blocks.ts";
import type { Database } from "../db/pool.ts";
import type { Batch } from "../../core/series/batch.ts";

/**
 * Takes over what the first version of the tables held (migration 000004 kept them by the side), a slot at a time, the
 * way every sample
 * goes; then they are dropped. Stopped in the middle, it begins again: a sample written twice is one sample. Samples
 * older than retention are left behind.
 */
export async function takeOverFirstSlice(
  database: Database,
  store: { write(batch: Batch): Promise<unknown> },
): Promise<void> {
  const { rows } = await database.query<{ there: string | null }>("select to_regclass('first_chunk') as there");
  if (!rows[0]?.there) return;
  const slots = await database.query<{ slot_ms: number }>(
    "select slot_ms from first_chunk union select slot_ms from first_journal order by slot_ms",
  );
  for (const { slot_ms } of slots.rows) {
    const chunks = await database.query<{ series_id: number; payload: Buffer }>(
      "select series_id, payload from first_chunk where slot_ms = $1::bigint",
      [slot_ms],
    );
    await Promise.all(
      chunks.rows.map(({ series_id, payload }) => {
        const { timeMs, value } = readFirstChunkBlock(payload);
        return store.write({
          series: new Uint32Array(timeMs.length).fill(series_id),
          timeMs,
          value,
          length: timeMs.length,
        });
      }),
    );
    const journal = await database.query<{ payload: Buffer }>(
      "select payload from first_journal where slot_ms = $1::bigint order by id",
      [slot_ms],
    );
    for (const { payload } of journal.rows) await store.write(readFirstJournalBlock(payload));
  }
  await database.query("select drop_first_slice()");
}
