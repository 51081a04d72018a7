import type { Database } from "./pool.ts";

/** Whether the database answers. */
export function isReachable(database: Database): Promise<boolean> {
  return database.query("select 1").then(
    () => true,
    () => false,
  );
}
