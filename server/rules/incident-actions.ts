import type { IncidentView } from "../../core/rules/rule.ts";
import { type Database, inTransaction } from "../db/pool.ts";
import { addEntry } from "./incident-entry-rows.ts";
import { incidentColumns } from "./incident-rows.ts";

/** Somebody has seen an open incident: it is not told again. Null takes that back. Undefined where none is open. */
export async function acknowledge(
  database: Database,
  id: number,
  as: string | null,
  by: string,
  atMs: number,
): Promise<IncidentView | undefined> {
  return inTransaction(database, async (connection) => {
    const { rows } = await connection.query<IncidentView>(
      `update incident set acknowledged_by = $2::text, acknowledged_at_ms = $3::bigint where id = $1::bigint and cleared_at_ms is null returning ${incidentColumns}`,
      [id, as, as === null ? null : Math.round(atMs)],
    );
    if (rows[0]) await addEntry(connection, id, as === null ? "unacknowledged" : "acknowledged", atMs, by);
    return rows[0];
  });
}

/** Nobody is told of an open incident until then; null ends that. Undefined where none is open. */
export async function snooze(
  database: Database,
  id: number,
  untilMs: number | null,
  by: string,
  atMs: number,
): Promise<IncidentView | undefined> {
  return inTransaction(database, async (connection) => {
    const { rows } = await connection.query<IncidentView>(
      `update incident set snoozed_until_ms = $2::bigint where id = $1::bigint and cleared_at_ms is null returning ${incidentColumns}`,
      [id, untilMs],
    );
    if (rows[0])
      await addEntry(connection, id, "snoozed", atMs, by, untilMs === null ? "" : new Date(untilMs).toISOString());
    return rows[0];
  });
}
