import pg from "pg";
import { clientOf, hostCount } from "./database-hosts.ts";

// int8 comes as text by default; ids and milliseconds here stay far below 2^53.
pg.types.setTypeParser(pg.types.builtins.INT8, Number);

export type Database = pg.Pool;
export type Connection = pg.PoolClient;

/**
 * Opens a pool, to whichever of several hosts takes writes. Errors of idle connections (the database was restarted) are left to the next query, which says them to
 * somebody.
 */
export function openDatabase(url: string): Database {
  const pool = new pg.Pool({
    ...(hostCount(url) > 1 ? { Client: clientOf(url) } : { connectionString: url }),
    max: 10,
    application_name: "nubrel",
    connectionTimeoutMillis: 5000,
    idleTimeoutMillis: 60_000,
  });
  pool.on("error", () => {});
  pool.on("connect", (client) => client.on("error", () => {}));
  return pool;
}

/** Opens a connection of one's own; of several hosts each is tried once. `lost` is called when it breaks. */
export async function openConnection(url: string, lost: () => void): Promise<pg.Client> {
  for (let left = hostCount(url); ; left--) {
    try {
      return await openOne(url, lost);
    } catch (error) {
      if (left <= 1) throw error;
    }
  }
}

async function openOne(url: string, lost: () => void): Promise<pg.Client> {
  const Client = clientOf(url);
  const client = new Client({ connectionString: url, application_name: "nubrel", connectionTimeoutMillis: 5000 });
  let isOpen = false;
  const broken = () => isOpen && lost();
  client.on("error", broken);
  client.on("end", broken);
  await client.connect();
  isOpen = true;
  return client;
}

/** Finds out which of several hosts takes writes, so that the pools of this thread begin there. Throws where none does. */
export async function findWritable(url: string): Promise<void> {
  if (hostCount(url) > 1) await (await openConnection(url, () => {})).end();
}

/** Runs `work` in one transaction of a connection: committed when it returns, rolled back when it throws. */
export async function committed<T>(
  connection: Connection,
  work: (connection: Connection) => Promise<T>,
  broken: (failure: Error) => void = () => {},
): Promise<T> {
  await connection.query("begin");
  try {
    const result = await work(connection);
    await connection.query("commit");
    return result;
  } catch (error) {
    await connection.query("rollback").catch(broken);
    throw error;
  }
}

/** The same over a connection of its own. */
export async function inTransaction<T>(database: Database, work: (connection: Connection) => Promise<T>): Promise<T> {
  const connection = await database.connect();
  let broken: Error | undefined;
  try {
    return await committed(connection, work, (failure) => {
      broken = failure;
    });
  } finally {
    connection.release(broken);
  }
}
