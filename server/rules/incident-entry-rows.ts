import type { IncidentEntry, IncidentEntryKind } from "../../core/rules/incident-entry.ts";
import type { Connection, Database } from "../db/pool.ts";

/** Writes down what happened to an incident. */
export async function addEntry(
  connection: Connection | Database,
  incidentId: number,
  kind: IncidentEntryKind,
  atMs: number,
  by = "",
  text = "",
): Promise<void> {
  await connection.query(
    "insert into incident_entry (incident_id, at_ms, kind, by, text) values ($1::bigint, $2::bigint, $3::text, $4::text, $5::text)",
    [incidentId, Math.round(atMs), kind, by, text],
  );
}

export async function entriesOf(database: Database, incidentId: number): Promise<readonly IncidentEntry[]> {
  const { rows } = await database.query<IncidentEntry>(
    `select id, at_ms as "atMs", kind, by, text from incident_entry where incident_id = $1::bigint order by at_ms, id limit 1000`,
    [incidentId],
  );
  return rows;
}
