import pg from "pg";

// int8 comes as text by default; ids and milliseconds here stay far below 2^53.
pg.types.setTypeParser(pg.types.builtins.INT8, Number);

export type Database = pg.Pool;
export type Connection = pg.PoolClient;

/**
 * Opens a pool. Errors of idle connections (the database was restarted) are left to the next query, which says them to
 * somebody.
 */
export function openDatabase(url: string): Database {
  const pool = new pg.Pool({
    connectionString: url,
    max: 10,
    application_name: "nubrel",
    connectionTimeoutMillis: 5000,
    idleTimeoutMillis: 60_000,
  });
  pool.on("error", () => {});
  pool.on("connect", (client) => client.on("error", () => {}));
  return pool;
}

/** Opens a connection of one's own. `lost` is called when it breaks. */
export async function openConnection(url: string, lost: () => void): Promise<pg.Client> {
  const client = new pg.Client({ connectionString: url, application_name: "nubrel", connectionTimeoutMillis: 5000 });
  client.on("error", lost);
  client.on("end", lost);
  await client.connect();
  return client;
}

/** Runs `work` in one transaction: committed when it returns, rolled back when it throws. */
export async function inTransaction<T>(database: Database, work: (connection: Connection) => Promise<T>): Promise<T> {
  const connection = await database.connect();
  let broken: Error | undefined;
  try {
    await connection.query("begin");
    const result = await work(connection);
    await connection.query("commit");
    return result;
  } catch (error) {
    await connection.query("rollback").catch((failure: Error) => {
      broken = failure;
    });
    throw error;
  } finally {
    connection.release(broken);
  }
}
