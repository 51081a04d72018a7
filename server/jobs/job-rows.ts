import type { Database } from "../db/pool.ts";

/** Puts the moments of jobs that wait forward, by so many ms. */
export async function moveWaitingJobs(database: Database, byMs: number): Promise<void> {
  await database.query(
    "update graphile_worker._private_jobs set run_at = run_at + $1::float8 * interval '1 millisecond' where locked_at is null and run_at > now()",
    [byMs],
  );
}

/**
 * A server that was killed in the middle of a job cannot say so; its jobs would wait for hours. One server at a time
 * works on a database: what is locked when it starts is nobody's any more.
 */
export async function freeHeldJobs(database: Database): Promise<void> {
  await database.query(
    "select graphile_worker.force_unlock_workers(array(select distinct locked_by from graphile_worker.jobs where locked_by is not null))",
  );
}
