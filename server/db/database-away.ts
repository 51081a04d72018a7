/**
 * Whether an error says that the database cannot be reached just now. node-postgres has no code for a connection that
 * ends or takes too long.
 */
export function isDatabaseAway(error: unknown): boolean {
  const { code, message } = error as { code?: string; message?: string };
  if (error instanceof AggregateError) return error.errors.some(isDatabaseAway);
  return (
    (code !== undefined && databaseAway.has(code)) ||
    /Connection terminated|timeout exceeded when trying to connect|Client has encountered a connection error/.test(
      message ?? "",
    )
  );
}

/**
 * Node's errors of a connection; PostgreSQL's admin_shutdown, crash_shutdown, cannot_connect_now, idle_session_timeout,
 * too_many_connections, its class of connection
 * exceptions, and 55000 (a database that is kept from taking connections).
 */
const databaseAway = new Set([
  "ECONNREFUSED",
  "ECONNRESET",
  "ETIMEDOUT",
  "EPIPE",
  "ENOTFOUND",
  "EAI_AGAIN",
  "EHOSTUNREACH",
  "ENETUNREACH",
  "57P01",
  "57P02",
  "57P03",
  "57P05",
  "53300",
  "08000",
  "08001",
  "08003",
  "08004",
  "08006",
  "08007",
  "55000",
  // read_only_sql_transaction: the server has become a standby
  "25006",
]);

/** Whether the database's disk takes nothing more: SQLSTATE 53100, disk_full. */
export function isFull(error: unknown): boolean {
  return (error as { code?: string }).code === "53100";
}
