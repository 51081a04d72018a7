import { migrate } from "../server/db/migrate.ts";
import { type Database, openDatabase } from "../server/db/pool.ts";

/** A fresh database with the product's tables in the cluster that `npm run bench` started. */
export async function benchDatabase(name: string): Promise<{ readonly database: Database; readonly url: string }> {
  const url = new URL(process.env["NUBREL_BENCH_DATABASE_URL"] as string);
  const administrator = openDatabase(url.href);
  await administrator.query(`create database ${name}`);
  await administrator.end();
  url.pathname = `/${name}`;
  const database = openDatabase(url.href);
  await migrate(database);
  return { database, url: url.href };
}

/** Bytes of write-ahead log that `work` made. */
export async function walOf(database: Database, work: () => Promise<unknown>): Promise<number> {
  await database.query("checkpoint");
  const before = await database.query<{ lsn: string }>("select pg_current_wal_insert_lsn() as lsn");
  await work();
  const after = await database.query<{ bytes: number }>(
    "select pg_wal_lsn_diff(pg_current_wal_insert_lsn(), $1::pg_lsn)::float8 as bytes",
    [before.rows[0]?.lsn],
  );
  return after.rows[0]?.bytes as number;
}
