import type { Database } from "./pool.ts";

/** Lets a role read and write the rows of all tables that are there, the jobs' own among them. */
export async function grantRows(database: Database, role: string): Promise<void> {
  if (!/^[a-z_]+$/.test(role)) throw new TypeError(`${role} is not the name of a role`);
  await database.query(`
    do $$
    declare it record;
    begin
      for it in select nspname as name from pg_namespace where nspname in (current_schema(), 'graphile_worker') loop
        execute format('grant usage on schema %I to ${role}', it.name);
        execute format('grant select, insert, update, delete on all tables in schema %I to ${role}', it.name);
        execute format('grant usage, select, update on all sequences in schema %I to ${role}', it.name);
        execute format('grant execute on all routines in schema %I to ${role}', it.name);
      end loop;
    end $$`);
  await database.query(`revoke insert, update, delete on migration from ${role}`);
  await database.query(`revoke update, delete on audit from ${role}`);
}
