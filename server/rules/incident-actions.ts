import type { IncidentView } from "../../core/rules/rule.ts";
import { type Database, inTransaction } from "../db/pool.ts";
import { addEntry } from "./incident-entry-rows.ts";
import { writeAcknowledged, writeSnoozed } from "./incident-rows.ts";

/** Somebody has seen an open incident: it is not told again. Null takes that back. Undefined where none is open. */
export async function acknowledge(
  database: Database,
  id: number,
  as: string | null,
  by: string,
  atMs: number,
): Promise<IncidentView | undefined> {
  return inTransaction(database, async (connection) => {
    const changed = await writeAcknowledged(connection, id, as, as === null ? null : Math.round(atMs));
    if (changed) await addEntry(connection, id, as === null ? "unacknowledged" : "acknowledged", atMs, by);
    return changed;
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
    const changed = await writeSnoozed(connection, id, untilMs);
    if (changed)
      await addEntry(connection, id, "snoozed", atMs, by, untilMs === null ? "" : new Date(untilMs).toISOString());
    return changed;
  });
}
