import type { SourceKind } from "../../core/sources/kinds/source-kinds.ts";
import type { Credentials, Pause, Source, SourceSettings } from "../../core/sources/source.ts";
import type { Database } from "../db/pool.ts";

const columns = `id, name, kind, machine, interval_ms as "intervalMs", tells_silence as "tellsSilence",
  address, trust, device, credentials, tags, take, csv, pause, late_ms as "lateMs", back_days as "backDays", asked_from as "askedFrom", sender_version as "senderVersion"`;

export async function listSources(database: Database): Promise<readonly Source[]> {
  const { rows } = await database.query<Source>(`select ${columns} from source where removed_at is null order by id`);
  return rows;
}

/** One source; undefined where there is none, or it was removed. */
export async function findSource(database: Database, id: number): Promise<Source | undefined> {
  const { rows } = await database.query<Source>(
    `select ${columns} from source where id = $1::int and removed_at is null`,
    [id],
  );
  return rows[0];
}

/** Machines of which a source was removed lately, or reports under another name now. */
export async function listFormerMachines(database: Database): Promise<readonly string[]> {
  const { rows } = await database.query<{ machine: string }>(
    "select machine from source where removed_at is not null union select unnest(former_machines) from source",
  );
  return rows.map(({ machine }) => machine);
}

/** Notes of which version what sends for a source is. */
export async function writeSenderVersion(database: Database, id: number, version: string): Promise<void> {
  await database.query("update source set sender_version = $2::text where id = $1::int", [id, version]);
}

/** The secret of a source as it was sealed. */
export async function readSecret(database: Database, id: number): Promise<Buffer | undefined> {
  const { rows } = await database.query<{ secret: Buffer | null }>("select secret from source where id = $1::int", [
    id,
  ]);
  return rows[0]?.secret ?? undefined;
}

export async function insertSource(database: Database, kind: SourceKind, settings: SourceSettings): Promise<Source> {
  const { rows } = await database.query<Source>(
    `insert into source (kind, name, machine, interval_ms, tells_silence, address, trust, device, tags, take, csv, late_ms, back_days, asked_from)
     values ($1::text, $2::text, $3::text, $4::bigint, $5::boolean, $6::jsonb, $7::jsonb, $8::jsonb, $9::jsonb, $10::jsonb, $11::jsonb, $12::int, $13::int, $14::int)
     returning ${columns}`,
    [kind, ...valuesOf(settings)],
  );
  return rows[0] as Source;
}

/** Undefined where there is no such source. */
export async function updateSource(
  database: Database,
  id: number,
  settings: SourceSettings,
): Promise<Source | undefined> {
  const { rows } = await database.query<Source>(
    `update source
     set name = $2::text, machine = $3::text, former_machines = case when machine = $3::text then former_machines else array_append(former_machines, machine) end, interval_ms = $4::bigint, tells_silence = $5::boolean, address = $6::jsonb, trust = $7::jsonb, device = $8::jsonb, tags = $9::jsonb, take = $10::jsonb, csv = $11::jsonb, late_ms = $12::int, back_days = $13::int, asked_from = $14::int
     where id = $1::int and removed_at is null
     returning ${columns}`,
    [id, ...valuesOf(settings)],
  );
  return rows[0];
}

/** Pauses a source, or ends its pause. Undefined where there is no such source. */
export async function writePause(database: Database, id: number, pause: Pause | null): Promise<Source | undefined> {
  const { rows } = await database.query<Source>(
    `update source set pause = $2::jsonb where id = $1::int and removed_at is null returning ${columns}`,
    [id, pause && JSON.stringify(pause)],
  );
  return rows[0];
}

export async function writeSecret(
  database: Database,
  id: number,
  kind: Credentials["kind"],
  sealed: Buffer | null,
): Promise<void> {
  await database.query("update source set credentials = $2::text, secret = $3::bytea where id = $1::int", [
    id,
    kind,
    sealed,
  ]);
}

/**
 * Marks a source as removed, or takes that back. The answer says whether anything was changed; a name taken meanwhile
 * is a unique violation.
 */
export async function markRemoved(database: Database, id: number, removed: boolean): Promise<boolean> {
  const { rowCount } = await database.query(
    `update source
     set removed_at = case when $2::boolean then now() end
     where id = $1::int and (removed_at is null) = $2::boolean and kind <> 'this-machine'`,
    [id, removed],
  );
  return rowCount === 1;
}

/** Forgets sources that were removed days ago. */
export async function purgeRemoved(database: Database): Promise<void> {
  await database.query("delete from source where removed_at < now() - interval '7 days'");
}

function valuesOf({
  name,
  machine,
  intervalMs,
  tellsSilence,
  address,
  trust,
  device,
  tags,
  take,
  csv,
  lateMs = null,
  backDays = 1,
  askedFrom = null,
}: SourceSettings): unknown[] {
  return [
    name,
    machine,
    intervalMs,
    tellsSilence,
    address && JSON.stringify(address),
    JSON.stringify(trust),
    device && JSON.stringify(device),
    JSON.stringify(tags),
    JSON.stringify(take),
    csv && JSON.stringify(csv),
    lateMs,
    backDays,
    askedFrom,
  ];
}

/** Whether there is a source of this kind, or was one that a person has removed lately. */
export async function hadSourceOfKind(database: Database, kind: SourceKind): Promise<boolean> {
  return (await database.query("select from source where kind = $1::text limit 1", [kind])).rowCount !== 0;
}

/** Whether somebody has removed a source of this name lately. */
export async function wasSourceRemoved(database: Database, name: string): Promise<boolean> {
  const { rowCount } = await database.query(
    "select from source where name = $1::text and removed_at is not null limit 1",
    [name],
  );
  return rowCount !== 0;
}
