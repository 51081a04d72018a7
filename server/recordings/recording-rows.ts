import type { RecordingDocument } from "../../core/recordings/recording.ts";
import type { Database } from "../db/pool.ts";

/** A recording as it is stored. */
export interface RecordingRow {
  readonly id: number;
  readonly document: RecordingDocument;
}

/** All that are not removed, by name. */
export async function listRecordingRows(database: Database): Promise<readonly RecordingRow[]> {
  const { rows } = await database.query<RecordingRow>(
    "select id, document from recording where removed_at is null order by lower(name), id",
  );
  return rows;
}

/** Undefined where another has its name. */
export async function insertRecording(
  database: Database,
  document: RecordingDocument,
  by: string,
): Promise<RecordingRow | undefined> {
  const { rows } = await database.query<RecordingRow>(
    `insert into recording (name, document, changed_by) values ($1::text, $2::jsonb, $3::text)
     on conflict do nothing returning id, document`,
    [document.name, JSON.stringify(document), by],
  );
  return rows[0];
}

/** Undefined where there is no such recording, or another has its name. */
export async function updateRecording(
  database: Database,
  id: number,
  document: RecordingDocument,
  by: string,
): Promise<RecordingRow | undefined> {
  const { rows } = await database.query<RecordingRow>(
    `update recording set name = $2::text, document = $3::jsonb, changed_at = now(), changed_by = $4::text
     where id = $1::int and removed_at is null
       and not exists (select from recording other where lower(other.name) = lower($2::text) and other.removed_at is null and other.id <> $1::int)
     returning id, document`,
    [id, document.name, JSON.stringify(document), by],
  );
  return rows[0];
}

/** False where there is none. */
export async function removeRecordingRow(database: Database, id: number): Promise<boolean> {
  const { rowCount } = await database.query(
    "update recording set removed_at = now() where id = $1::int and removed_at is null",
    [id],
  );
  return rowCount === 1;
}

/** Brings one back that was removed; false where there is none, or another has its name by now. */
export async function bringRecordingRowBack(database: Database, id: number): Promise<boolean> {
  const { rowCount } = await database.query(
    `update recording set removed_at = null
     where id = $1::int and removed_at is not null
       and not exists (select from recording other where lower(other.name) = lower(recording.name) and other.removed_at is null)`,
    [id],
  );
  return rowCount === 1;
}
