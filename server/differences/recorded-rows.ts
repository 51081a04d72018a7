import type { RecordedInSpan } from "../../core/api/differences.ts";
import type { Database } from "../db/pool.ts";

const most = 100;

/** Runs of recordings that touch `[fromMs, toMs)`, by when they began. */
export async function runsIn(database: Database, fromMs: number, toMs: number): Promise<readonly RecordedInSpan[]> {
  const { rows } = await database.query<RecordedInSpan>(
    `select recording_id as "recordingId", run.id as run, recording.name, started_ms as "fromMs", ended_ms as "toMs"
     from recording_run run join recording on recording.id = run.recording_id
     where recording.removed_at is null and origin <> 'file' and started_ms < $2::bigint and coalesce(ended_ms, 9e15) > $1::bigint
     order by started_ms, run.id limit $3::int`,
    [Math.floor(fromMs), Math.ceil(toMs), most],
  );
  return rows;
}
