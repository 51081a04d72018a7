import type { Database } from "../db/pool.ts";
import { unseal } from "./seal.ts";
import { damageIn } from "./tasks/chunk-rows.ts";

const rowsAtOnce = 500;
const tables = {
  journal: "segment::text || '/' || seq",
  chunk: "series_id || '/' || slot",
  chunk_times: "id || '/' || slot",
  rollup_5m: "series_id || '/' || period",
  rollup_1h: "series_id || '/' || period",
} as const;

/** A row of the store whose checksum is wrong. */
export interface Found {
  readonly table: keyof typeof tables;
  readonly place: string;
  readonly reason: string;
}

/**
 * Reads every block of the store and looks at its checksum, changing nothing; answers how many there are, and those
 * that are damaged.
 */
export async function examineBlocks(
  database: Database,
  looked: (table: string, rows: number) => void = () => {},
): Promise<{ readonly rows: number; readonly damaged: readonly Found[] }> {
  const damaged: Found[] = [];
  let sum = 0;
  for (const [table, place] of Object.entries(tables) as [keyof typeof tables, string][]) {
    const connection = await database.connect();
    let rows = 0;
    try {
      // One consistent moment, a portion at a time: compaction goes on beside it.
      await connection.query("begin isolation level repeatable read read only");
      await connection.query(`declare blocks no scroll cursor for select ${place} as place, payload from ${table}`);
      for (;;) {
        const portion = await connection.query<{ place: string; payload: Buffer }>(`fetch ${rowsAtOnce} from blocks`);
        for (const row of portion.rows) {
          const reason = damageIn(() => void unseal(row.payload));
          if (reason !== undefined) damaged.push({ table, place: row.place, reason });
        }
        rows += portion.rows.length;
        if (portion.rows.length < rowsAtOnce) break;
      }
    } finally {
      await connection.query("rollback").catch(() => {});
      connection.release();
    }
    looked(table, rows);
    sum += rows;
  }
  return { rows: sum, damaged };
}
