import { randomBytes } from "node:crypto";
import pg from "pg";
import { migrate } from "../db/migrate.ts";
import { type Database, openDatabase } from "../db/pool.ts";

export interface TestDatabase {
  readonly url: string;
  readonly database: Database;
  drop(): Promise<void>;
}

/** A database of its own in the cluster that `npm test` started, with or without the product's tables. */
export async function testDatabase({ migrated = true } = {}): Promise<TestDatabase> {
  const cluster = process.env["NUBREL_TEST_DATABASE_URL"];
  if (!cluster) throw new Error("NUBREL_TEST_DATABASE_URL is not set: run these tests with `npm test`");
  const name = `test_${randomBytes(6).toString("hex")}`;
  await asAdministrator(cluster, `create database ${name}`);
  const url = new URL(cluster);
  url.pathname = `/${name}`;
  const database = openDatabase(url.href);
  if (migrated) await migrate(database);
  return {
    url: url.href,
    database,
    drop: async () => {
      await database.end().catch(() => {});
      await asAdministrator(cluster, `drop database ${name} with (force)`);
    },
  };
}

async function asAdministrator(url: string, statement: string): Promise<void> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    await client.query(statement);
  } finally {
    await client.end();
  }
}
