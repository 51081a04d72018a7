import type { Database } from "./pool.ts";

/** All of them, partitions aside; a test holds the list to the migrations. */
const tables = [
  "account",
  "audit",
  "beside",
  "chunk",
  "chunk_times",
  "dashboard",
  "dashboard_revision",
  "dashboard_star",
  "door_news",
  "event",
  "factor_change",
  "first_chunk",
  "first_journal",
  "forward",
  "gathered",
  "incident",
  "incident_entry",
  "incident_told",
  "invitation",
  "issued",
  "issuer",
  "journal",
  "link",
  "machine",
  "message",
  "message_attempt",
  "migration",
  "passkey",
  "quarantine",
  "quiet_time",
  "recipient",
  "recording",
  "recording_run",
  "recording_samples",
  "relay_taken",
  "rollup_1h",
  "rollup_5m",
  "rollup_due",
  "rule",
  "rule_line",
  "series",
  "series_life",
  "serving",
  "session",
  "setting",
  "sign_in_place",
  "source",
  "source_lease",
  "source_spell",
  "token",
  "windows_counters",
];

/** Takes Nubrel's tables out of a database that holds other things as well, maybe. */
export async function removeTables(from: Database): Promise<void> {
  await from.query(`
    drop table if exists ${tables.join(", ")} cascade;
    drop function if exists forget_audit, make_partition, drop_partition, drop_first_slice;
    drop sequence if exists journal_era, chunk_times_id;
    drop schema if exists graphile_worker cascade`);
}
