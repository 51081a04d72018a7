import { hostname } from "node:os";
import { lockNumber } from "./claim.ts";
import type { Database } from "./pool.ts";

/** The server that leads, as the others reach it. */
export interface Leader {
  readonly host: string;
  readonly pid: number;
  readonly since: Date;
  readonly address: string;
  /** Of its certificate's key (RFC 7469 §2.4); null where it speaks in clear text. */
  readonly pin: string | null;
  /** By which it knows that another server hands on what somebody asks. */
  readonly pass: string;
}

/** A server that stands beside the one that leads. */
export interface BesideRow {
  readonly host: string;
  readonly pid: number;
  readonly address: string;
  readonly since: Date;
  readonly behindMs: number | null;
  readonly storesPerSecond: number | null;
  /** How many sources it asks. */
  readonly asks: number;
}

/** One that has not been heard of for so long is gone. */
const goneSeconds = 20;

/** How to reach the server that leads; undefined where none says so. */
export async function leaderOf(database: Database): Promise<Leader | undefined> {
  const { rows } = await database.query<Leader>(
    "select host, pid, since, address, pin, pass from serving where address is not null and pass is not null",
  );
  return rows[0];
}

/** Says to the others how this server, which leads, is reached. */
export async function noteLeader(
  database: Database,
  { address, pin, pass }: Pick<Leader, "address" | "pin" | "pass">,
): Promise<void> {
  await database.query("update serving set address = $1::text, pin = $2::text, pass = $3::text", [address, pin, pass]);
}

/** Whether no server leads just now. It may be another's turn a moment later: who wants to lead claims the database. */
export async function isFree(database: Database): Promise<boolean> {
  const { rows } = await database.query<{ free: boolean }>(
    // Of a lock by one number of 64 bits the halves stand in two columns (PostgreSQL, pg_locks).
    `select not exists (
       select from pg_locks
       where locktype = 'advisory' and objsubid = 1 and granted
         and database = (select oid from pg_database where datname = current_database())
         and (classid::bigint << 32) + objid::bigint = $1::bigint
     ) as free`,
    [lockNumber],
  );
  return rows[0]?.free === true;
}

/** Says that this server stands beside the one that leads. */
export async function noteBeside(
  database: Database,
  {
    instance,
    address,
    behindMs,
    storesPerSecond,
    place,
  }: {
    instance: string;
    address: string;
    behindMs: number | undefined;
    storesPerSecond: number;
    place: string | undefined;
  },
): Promise<void> {
  await database.query(
    `insert into beside (instance, host, pid, address, behind_ms, place, stored)
     values ($1::uuid, $2::text, $3::int, $4::text, $5::real, $6::text, $7::real)
     on conflict (instance) do update set heard = now(), behind_ms = excluded.behind_ms, stored = excluded.stored`,
    [instance, hostname(), process.pid, address, behindMs ?? null, place ?? null, storesPerSecond],
  );
}

/** This server stands beside it no more; what others left long ago is taken away as well. */
export async function leaveBeside(database: Database, instance: string): Promise<void> {
  await database.query("delete from beside where instance = $1::uuid or heard < now() - interval '1 day'", [instance]);
}

/** The servers that stand beside the one that leads, and are heard of. */
export async function listBeside(database: Database): Promise<readonly BesideRow[]> {
  const { rows } = await database.query<BesideRow>(
    `select host, pid, address, since, behind_ms as "behindMs", stored as "storesPerSecond",
       (select count(*)::int from source_lease where server = instance and until > now()) as asks
     from beside
     where heard > now() - make_interval(secs => $1::float8)
     order by since`,
    [goneSeconds],
  );
  return rows;
}
