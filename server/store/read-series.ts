import type { SharedTags } from "../../core/counters/shared-tags.ts";
import type { CounterKind, Tags } from "../../core/counters/counter.ts";
import { type CopiedRows, copyOut } from "../db/copy-binary.ts";
import type { Database } from "../db/pool.ts";
import { whole } from "./tasks/chunk-rows.ts";

/** A series as the database has it. */
export interface StoredSeries {
  readonly id: number;
  readonly key: string;
  readonly counter: string;
  readonly tags: Tags;
  readonly unit: string;
  readonly kind: CounterKind;
  readonly falls: string | null;
  readonly sourceId: number | null;
}

/** Some at a time: others get their turn between, and what came is left again. */
const readAtOnce = 20_000;

/** Hands all series with a higher number than `afterId` to `take`, in their order. */
export async function readSeries(
  database: Database,
  afterId: number,
  shared: SharedTags,
  take: (series: StoredSeries) => void,
): Promise<void> {
  const connection = await database.connect();
  let broken: Error | undefined;
  try {
    const page = (after: number) =>
      copyOut(
        connection,
        `select id, key, counter, tags::text, unit, kind, falls, source_id from series where id > ${whole(after)} order by id limit ${readAtOnce}`,
      );
    for (let rows = await page(afterId); ; ) {
      const { count, lastId } = endOf(rows);
      // the database reads the next ones while these are taken
      const next = count < readAtOnce ? undefined : page(lastId);
      next?.catch(() => {}); // it is heard below
      takeRows(rows, shared, take);
      if (next === undefined) return;
      rows = await next;
    }
  } catch (error) {
    broken = error as Error;
    throw error;
  } finally {
    connection.release(broken);
  }
}

function endOf(rows: CopiedRows): { readonly count: number; readonly lastId: number } {
  let [count, last] = [0, 0];
  rows.forEach(8, (starts) => {
    count++;
    last = starts[0] as number;
  });
  return { count, lastId: count === 0 ? 0 : rows.int(last) };
}

function takeRows(rows: CopiedRows, shared: SharedTags, take: (series: StoredSeries) => void): void {
  const { bytes } = rows;
  rows.forEach(8, (starts, ends) => {
    take({
      id: rows.int(starts[0] as number),
      key: bytes.toString("utf8", starts[1], ends[1]),
      counter: shared.text(bytes.toString("utf8", starts[2], ends[2])),
      tags: shared.tags(bytes.toString("utf8", starts[3], ends[3])),
      unit: shared.text(bytes.toString("utf8", starts[4], ends[4])),
      kind: shared.text(bytes.toString("utf8", starts[5], ends[5])) as CounterKind,
      falls: (starts[6] as number) < 0 ? null : bytes.toString("utf8", starts[6], ends[6]),
      sourceId: (starts[7] as number) < 0 ? null : rows.int(starts[7] as number),
    });
  });
}
