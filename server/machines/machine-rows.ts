import type { MachineName } from "../../core/api/machines.ts";
import type { Database } from "../db/pool.ts";

/** A machine that has a name of its own, or was taken off the lists. */
export interface MachineRow extends MachineName {
  readonly name: string;
  readonly removedAtMs: number | null;
}

export async function listMachineRows(database: Database): Promise<readonly MachineRow[]> {
  const { rows } = await database.query<MachineRow>(
    `select name, friendly_name as "friendlyName", tags, removed_at_ms as "removedAtMs" from machine`,
  );
  return rows;
}

/** Takes a machine off the lists, or puts it back (null). */
export async function writeMachineRemoved(database: Database, machine: string, atMs: number | null): Promise<void> {
  await database.query(
    "insert into machine (name, removed_at_ms) values ($1::text, $2::bigint) on conflict (name) do update set removed_at_ms = excluded.removed_at_ms",
    [machine, atMs],
  );
}

export async function writeMachineName(
  database: Database,
  machine: string,
  { friendlyName, tags }: MachineName,
): Promise<void> {
  await database.query(
    `insert into machine (name, friendly_name, tags)
     values ($1::text, $2::text, $3::jsonb)
     on conflict (name) do update set friendly_name = excluded.friendly_name, tags = excluded.tags`,
    [machine, friendlyName, JSON.stringify(tags)],
  );
}
