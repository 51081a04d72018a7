import { CopyRowsWriter, copyIn } from "../server/db/copy-binary.ts";
import type { Database } from "../server/db/pool.ts";
import type { Batch } from "../core/series/batch.ts";

/** Milliseconds from 1970 to 2000, from which PostgreSQL counts its microseconds. */
const epochMs = 946_684_800_000;

/** What we are measured against: one row a sample, loaded by binary COPY. */
export async function makePlainTable(database: Database, name = "sample"): Promise<void> {
  await database.query(
    `create table ${name} (series_id int, ts timestamptz, value float8, primary key (series_id, ts))`,
  );
}

/** The rows of a batch as COPY takes them; made before the clock is started. */
export function plainRows({ series, timeMs, value, length }: Batch): Buffer {
  const rows = new CopyRowsWriter();
  const eight = Buffer.alloc(8);
  for (let i = 0; i < length; i++) {
    rows.row(3);
    rows.int(series[i] as number);
    eight.writeBigInt64BE(BigInt(((timeMs[i] as number) - epochMs) * 1000));
    rows.bytea(eight);
    eight.writeDoubleBE(value[i] as number);
    rows.bytea(eight);
  }
  return rows.finish();
}

export async function copyPlain(database: Database, rows: Buffer, name = "sample"): Promise<void> {
  const connection = await database.connect();
  try {
    await copyIn(connection, `${name} (series_id, ts, value)`, rows);
  } finally {
    connection.release();
  }
}
