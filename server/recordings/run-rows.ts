import type { RunListed, UsedMost } from "../../core/api/recordings.ts";
import { readChunkBlock, writeChunkBlock } from "../../core/chunk/chunk-block.ts";
import type { MachineEvent } from "../../core/events/machine-event.ts";
import type { EndedBecause, RecordingDocument, RunOrigin, RunPart } from "../../core/recordings/recording.ts";
import type { RunSeries } from "../../core/recordings/run-series.ts";
import { type Database, inTransaction } from "../db/pool.ts";
import { fallsOf } from "../store/series-registry.ts";

/** A run as it is stored. */
export interface RunRow extends RunListed {
  readonly document: RecordingDocument;
  /** When the server last saw to it. */
  readonly seenMs: number;
  readonly parts: readonly RunPart[];
  readonly notes: readonly string[];
  readonly used: readonly UsedMost[];
  readonly events: readonly MachineEvent[];
  readonly isKept: boolean;
}

/** What a run begins with. */
export interface NewRun {
  readonly recordingId: number;
  readonly document: RecordingDocument;
  readonly origin: RunOrigin;
  readonly startedAtMs: number;
  readonly untilMs: number | null;
  /** Of a schedule: the beginning of its time. */
  readonly plannedMs: number | null;
  readonly notes: readonly string[];
}

const columns = `id, recording_id as "recordingId", document, origin, started_ms as "startedAtMs", until_ms as "untilMs",
  seen_ms as "seenMs", ended_ms as "endedAtMs", ended_because as "endedBecause",
  (document ->> 'everySeconds')::int as "everySeconds", parts, samples, bytes, strip, notes, used, events, is_kept as "isKept"`;

/** Undefined where there is a run of this time of the schedule already. */
export async function insertRun(database: Database, run: NewRun): Promise<RunRow | undefined> {
  const { rows } = await database.query<RunRow>(
    `insert into recording_run (recording_id, document, origin, planned_ms, started_ms, until_ms, seen_ms, parts, notes)
     values ($1::int, $2::jsonb, $3::text, $4::bigint, $5::bigint, $6::bigint, $5::bigint, '[]', $7::jsonb)
     on conflict (recording_id, planned_ms) do nothing
     returning ${columns}`,
    [
      run.recordingId,
      JSON.stringify(run.document),
      run.origin,
      run.plannedMs,
      run.startedAtMs,
      run.untilMs,
      JSON.stringify(run.notes),
    ],
  );
  return rows[0];
}

export async function runOf(database: Database, recordingId: number, id: number): Promise<RunRow | undefined> {
  const { rows } = await database.query<RunRow>(
    `select ${columns} from recording_run where id = $1::int and recording_id = $2::int`,
    [id, recordingId],
  );
  return rows[0];
}

/** The newest first. */
export async function runsOf(database: Database, recordingId: number, most = 500): Promise<readonly RunRow[]> {
  const { rows } = await database.query<RunRow>(
    `select ${columns} from recording_run where recording_id = $1::int order by started_ms desc, id desc limit $2::int`,
    [recordingId, most],
  );
  return rows;
}

/** How many runs each recording has, and its newest. */
export async function newestRuns(
  database: Database,
): Promise<ReadonlyMap<number, { readonly runs: number; readonly last: RunRow }>> {
  const { rows } = await database.query<RunRow & { readonly runs: number; readonly place: number }>(
    `select * from (
       select ${columns}, count(*) over (partition by recording_id)::int as runs,
              row_number() over (partition by recording_id order by started_ms desc, id desc) as place
       from recording_run) all_runs
     where place = 1`,
  );
  return new Map(rows.map(({ runs, place: _, ...last }) => [last.recordingId, { runs, last }]));
}

/** Runs that are on. */
export async function openRuns(database: Database): Promise<readonly RunRow[]> {
  const { rows } = await database.query<RunRow>(
    `select ${columns} from recording_run where ended_ms is null order by id`,
  );
  return rows;
}

/** Runs that ended up to a moment and whose samples stand among the store's only. */
export async function unkeptRuns(database: Database, endedUntilMs: number): Promise<readonly RunRow[]> {
  const { rows } = await database.query<RunRow>(
    `select ${columns} from recording_run where ended_ms <= $1::bigint and not is_kept order by id limit 20`,
    [endedUntilMs],
  );
  return rows;
}

/** How a run stands that is on. */
export async function noteRunSeen(
  database: Database,
  {
    id,
    seenMs,
    untilMs,
    parts,
    samples,
    bytes,
  }: Pick<RunRow, "id" | "seenMs" | "untilMs" | "parts" | "samples" | "bytes">,
): Promise<void> {
  await database.query(
    `update recording_run set seen_ms = $2::bigint, until_ms = $3::bigint, parts = $4::jsonb, samples = $5::bigint, bytes = $6::bigint
     where id = $1::int and ended_ms is null`,
    [id, seenMs, untilMs, JSON.stringify(parts), samples, Math.round(bytes)],
  );
}

/** Ends a run; undefined where it has ended already. */
export async function endRunRow(
  database: Database,
  id: number,
  {
    endedAtMs,
    because,
    parts,
  }: { readonly endedAtMs: number; readonly because: EndedBecause; readonly parts: readonly RunPart[] },
): Promise<RunRow | undefined> {
  const { rows } = await database.query<RunRow>(
    `update recording_run set ended_ms = $2::bigint, ended_because = $3::text, parts = $4::jsonb
     where id = $1::int and ended_ms is null returning ${columns}`,
    [id, endedAtMs, because, JSON.stringify(parts)],
  );
  return rows[0];
}

export async function addRunNotes(database: Database, id: number, notes: readonly string[]): Promise<void> {
  if (notes.length === 0) return;
  await database.query("update recording_run set notes = notes || $2::jsonb where id = $1::int", [
    id,
    JSON.stringify(notes),
  ]);
}

/** Keeps a run's samples apart from the store's, all or none of them. */
export async function keepRun(
  database: Database,
  id: number,
  series: readonly RunSeries[],
  { strip, used }: Pick<RunRow, "strip" | "used">,
): Promise<void> {
  const blocks = series.map(({ column }) => Buffer.from(writeChunkBlock(column)));
  const samples = series.reduce((sum, { column }) => sum + column.timeMs.length, 0);
  const bytes = blocks.reduce((sum, block) => sum + block.length, 0);
  await inTransaction(database, async (connection) => {
    await connection.query("delete from recording_samples where run_id = $1::int", [id]);
    await connection.query(
      `insert into recording_samples (run_id, place, counter, unit, kind, tags, falls, of_sentences, block)
       select $1::int, place - 1, counter, unit, kind, tags::jsonb, falls, of_sentences::jsonb, block
       from unnest($2::text[], $3::text[], $4::text[], $5::text[], $6::text[], $7::text[], $8::bytea[])
         with ordinality as given (counter, unit, kind, tags, falls, of_sentences, block, place)`,
      [
        id,
        series.map(({ counter }) => counter),
        series.map(({ unit }) => unit),
        series.map(({ kind }) => kind),
        series.map(({ tags }) => JSON.stringify(tags)),
        series.map(({ falls }) => (falls === undefined ? null : String(falls))),
        series.map(({ of }) => JSON.stringify(of)),
        blocks,
      ],
    );
    await connection.query(
      "update recording_run set is_kept = true, samples = $2::bigint, bytes = $3::bigint, strip = $4::jsonb, used = $5::jsonb where id = $1::int",
      [id, samples, bytes, JSON.stringify(strip), JSON.stringify(used)],
    );
  });
}

/** The samples of a run that was kept. */
export async function keptSeries(database: Database, id: number): Promise<readonly RunSeries[]> {
  const { rows } = await database.query<
    Omit<RunSeries, "column" | "falls"> & { readonly falls: string | null; readonly block: Buffer }
  >(
    `select counter, unit, kind, tags, falls, of_sentences as of, block from recording_samples where run_id = $1::int order by place`,
    [id],
  );
  return rows.map(({ counter, unit, kind, tags, falls, of, block }) => ({
    counter,
    unit,
    kind,
    tags,
    of,
    falls: fallsOf(counter, falls),
    column: readChunkBlock(block),
  }));
}

/** Takes in a run that has ended elsewhere. */
export async function insertEndedRun(
  database: Database,
  run: Omit<NewRun, "plannedMs" | "untilMs"> &
    Pick<RunRow, "events" | "parts"> & { readonly endedAtMs: number; readonly endedBecause: EndedBecause },
): Promise<RunRow> {
  const { rows } = await database.query<RunRow>(
    `insert into recording_run (recording_id, document, origin, started_ms, seen_ms, ended_ms, ended_because, parts, notes, events)
     values ($1::int, $2::jsonb, $3::text, $4::bigint, $4::bigint, $5::bigint, $6::text, $7::jsonb, $8::jsonb, $9::jsonb)
     returning ${columns}`,
    [
      run.recordingId,
      JSON.stringify(run.document),
      run.origin,
      run.startedAtMs,
      run.endedAtMs,
      run.endedBecause,
      JSON.stringify(run.parts),
      JSON.stringify(run.notes),
      JSON.stringify(run.events),
    ],
  );
  return rows[0] as RunRow;
}

/** False where there is none that has ended. */
export async function removeRunRow(database: Database, recordingId: number, id: number): Promise<boolean> {
  const { rowCount } = await database.query(
    "delete from recording_run where id = $1::int and recording_id = $2::int and ended_ms is not null",
    [id, recordingId],
  );
  return rowCount === 1;
}

/** Removes runs that their recordings keep no longer, and, after a week, recordings that were removed. */
export async function forgetRuns(database: Database, nowMs: number): Promise<void> {
  await database.query(
    `delete from recording_run run using recording
     where recording.id = run.recording_id and (recording.document ->> 'keepDays') is not null
       and run.ended_ms < $1::float8 - (recording.document ->> 'keepDays')::float8 * 86400000`,
    [nowMs],
  );
  await database.query("delete from recording where removed_at < to_timestamp($1::float8 / 1000) - interval '7 days'", [
    nowMs,
  ]);
}
