import type { Connection, Database } from "../db/pool.ts";

/** On which servers hear of each other's commits. */
export const journalChannel = "nubrel_journal";

/** A row of the journal: samples of one slot, which lean on those of the rows before it in its segment. */
export interface JournalRow {
  readonly segment: number;
  readonly seq: number;
  readonly slot: number;
  readonly samples: number;
  readonly payload: Buffer;
}

/**
 * One statement, so one transaction. Payloads go as binary parameters; as an array they would go as text of twice the
 * size.
 */
export async function insertJournalRows(database: Database, rows: readonly JournalRow[]): Promise<void> {
  await database.query({
    ...(rows.length === 1 && { name: "journal" }), // the usual one is prepared: a tenth of a flush's time
    text: `insert into journal (segment, seq, slot, samples, payload)
      values ${placesOf(rows, 1)}
      on conflict (segment, seq) do nothing`,
    values: valuesOf(rows),
  });
}

/**
 * Where other servers write as well: the rows are stored where this server's pass still holds, and nobody raises the
 * fence until they are committed. The others hear of it, with the database's time. False where the pass does not hold.
 */
export async function insertFencedRows(
  database: Database | Connection,
  rows: readonly JournalRow[],
  fence: number,
): Promise<boolean> {
  const { rows: answer } = await database.query<{ isIn: boolean }>({
    ...(rows.length === 1 && { name: "journal-fenced" }),
    text: `with let_in as (select from serving where fence = $1::bigint for share),
      stored as (
        insert into journal (segment, seq, slot, samples, payload)
        select fresh.*
        from (values ${placesOf(rows, 2)}) as fresh
        where exists (select from let_in)
        on conflict (segment, seq) do nothing
        returning segment
      ),
      told as (
        select pg_notify('${journalChannel}', concat_ws(' ', floor(extract(epoch from clock_timestamp()) * 1000), string_agg(distinct segment::text, ' ')))
        from stored
      )
      select exists (select from let_in) as "isIn" from told`,
    values: [fence, ...valuesOf(rows)],
  });
  return answer[0]?.isIn === true;
}

const placesOf = (rows: readonly JournalRow[], first: number): string =>
  rows
    .map((_, i) =>
      ["bigint", "int", "int", "int", "bytea"].map((type, j) => `$${first + 5 * i + j}::${type}`).join(", "),
    )
    .map((places) => `(${places})`)
    .join(", ");

const valuesOf = (rows: readonly JournalRow[]): unknown[] =>
  rows.flatMap((row) => [row.segment, row.seq, row.slot, row.samples, row.payload]);

/** A number that no process had before: its segments are numbered in it. */
export async function nextJournalEra(database: Database): Promise<number> {
  const { rows } = await database.query<{ era: number }>("select nextval('journal_era')::bigint as era");
  return (rows[0] as { era: number }).era;
}
