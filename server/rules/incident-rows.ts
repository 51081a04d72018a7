import { documentOf } from "../../core/rules/document-of.ts";
import type { Tags } from "../../core/counters/counter.ts";
import type { RehearsalAnswer } from "../../core/rules/rehearse.ts";
import type { Effect, IncidentView, LineState, Rule, RuleDocument, Severity } from "../../core/rules/rule.ts";
import type { Source } from "../../core/sources/source.ts";
import type { Connection, Database } from "../db/pool.ts";
import { addEntry } from "./incident-entry-rows.ts";

/** A line of a rule as stored: where it stands and the incident that is open on it. */
export interface StoredLine {
  readonly ruleId: number;
  readonly line: string;
  readonly tags: Tags;
  readonly state: LineState;
  readonly incidentId: number | null;
}

const incidentColumns = `id, coalesce(rule_id, 0) as "ruleId", rule_name as "ruleName", severity, tags, compare, watch, limit_value as "limit", unit,
  raised_at_ms as "raisedAtMs", cleared_at_ms as "clearedAtMs", value, furthest, cleared_value as "clearedValue", ended,
  acknowledged_by as "acknowledgedBy", acknowledged_at_ms as "acknowledgedAtMs", snoozed_until_ms as "snoozedUntilMs", quiet_id as "quietId", closed_by as "closedBy"`;

export async function listRuleLines(database: Database): Promise<readonly StoredLine[]> {
  const { rows } = await database.query<StoredLine>(
    `select rule_id as "ruleId", line, tags, state, incident_id as "incidentId" from rule_line`,
  );
  return rows;
}

/** Stores where lines stand, many at once. */
export async function upsertRuleLines(
  connection: Connection,
  ruleId: number,
  lines: readonly Omit<StoredLine, "ruleId">[],
): Promise<void> {
  await connection.query(
    `insert into rule_line (rule_id, line, tags, state, incident_id)
     select $1::int, line, tags, state, incident_id from unnest($2::text[], $3::jsonb[], $4::jsonb[], $5::bigint[]) as given (line, tags, state, incident_id)
     on conflict (rule_id, line) do update set tags = excluded.tags, state = excluded.state, incident_id = excluded.incident_id`,
    [
      ruleId,
      lines.map(({ line }) => line),
      lines.map(({ tags }) => JSON.stringify(tags)),
      lines.map(({ state }) => JSON.stringify(state)),
      lines.map(({ incidentId }) => incidentId),
    ],
  );
}

interface Opened {
  readonly tags: Tags;
  /** Of the limit and the values. */
  readonly unit: string;
  readonly limit: number;
  readonly effect: Effect;
}

export async function openIncident(
  connection: Connection,
  rule: Rule,
  { tags, unit, limit, effect }: Opened,
): Promise<IncidentView> {
  const document = documentOf(rule);
  const { rows } = await connection.query<IncidentView>(
    `insert into incident (rule_id, rule_name, severity, tags, compare, watch, limit_value, unit, raised_at_ms, value, furthest, document)
     values ($1::int, $2::text, $3::text, $4::jsonb, $5::text, $6::text, $7::float8, $8::text, $9::bigint, $10::float8, $10::float8, $11::jsonb)
     returning ${incidentColumns}`,
    [
      rule.id,
      document.name,
      effect.severity,
      JSON.stringify(tags),
      document.compare,
      document.watch.kind,
      limit,
      unit,
      Math.round(effect.atMs),
      effect.value,
      JSON.stringify(document),
    ],
  );
  const incident = rows[0] as IncidentView;
  await addEntry(connection, incident.id, "raised", effect.atMs);
  return incident;
}

/**
 * Opens the incident of a silent source; undefined where one is open already. Limit and value are seconds of silence.
 */
export async function openSilence(
  database: Database,
  source: Pick<Source, "id" | "name" | "machine">,
  limit: number,
  value: number,
  atMs: number,
): Promise<IncidentView | undefined> {
  const { rows } = await database.query<IncidentView>(
    `insert into incident (source_id, rule_name, severity, tags, compare, watch, limit_value, unit, raised_at_ms, value, furthest)
     values ($1::int, $2::text, 'notice', $3::jsonb, 'silent', 'silence', $4::float8, 's', $5::bigint, $6::float8, $6::float8)
     on conflict do nothing
     returning ${incidentColumns}`,
    [
      source.id,
      `${source.name} is silent`,
      JSON.stringify({ machine: source.machine }),
      limit,
      Math.round(atMs),
      value,
    ],
  );
  if (rows[0]) await addEntry(database, rows[0].id, "raised", atMs);
  return rows[0];
}

/** Opens the incident of a rule that cannot be checked; undefined where one is open already. */
export async function openFailure(
  database: Database,
  rule: Pick<Rule, "id" | "name">,
  atMs: number,
): Promise<IncidentView | undefined> {
  const { rows } = await database.query<IncidentView>(
    `insert into incident (rule_id, rule_name, severity, tags, compare, limit_value, unit, raised_at_ms)
     values ($1::int, $2::text, 'notice', '{}', 'failed', 0, '1', $3::bigint)
     on conflict do nothing
     returning ${incidentColumns}`,
    [rule.id, rule.name, Math.round(atMs)],
  );
  if (rows[0]) await addEntry(database, rows[0].id, "raised", atMs);
  return rows[0];
}

/** Closes what is open because a rule could not be checked. */
export async function closeFailure(
  database: Database,
  ruleId: number,
  atMs: number,
): Promise<IncidentView | undefined> {
  const { rows } = await database.query<{ id: number }>(
    "select id from incident where rule_id = $1::int and compare = 'failed' and cleared_at_ms is null",
    [ruleId],
  );
  return rows[0] && closeIncident(database, rows[0].id, atMs);
}

/** Rules of which it is told that they could not be checked. */
export async function listFailing(database: Database): Promise<readonly number[]> {
  const { rows } = await database.query<{ ruleId: number }>(
    `select rule_id as "ruleId" from incident where compare = 'failed' and cleared_at_ms is null and rule_id is not null`,
  );
  return rows.map(({ ruleId }) => ruleId);
}

/** Closes an incident: at a value, or for what else ended it. What was furthest of a silence is how long it lasted. */
export async function closeIncident(
  connection: Connection | Database,
  id: number,
  atMs: number,
  {
    by = null,
    value = null,
    ended = null,
  }: { readonly by?: string | null; readonly value?: number | null; readonly ended?: IncidentView["ended"] } = {},
): Promise<IncidentView | undefined> {
  const { rows } = await connection.query<IncidentView>(
    `update incident
     set cleared_at_ms = greatest($2::bigint, raised_at_ms), closed_by = $3::text, cleared_value = $4::float8, ended = $5::text,
         furthest = case compare when 'silent' then value + (greatest($2::bigint, raised_at_ms) - raised_at_ms) / 1000.0 else furthest end
     where id = $1::bigint and cleared_at_ms is null
     returning ${incidentColumns}`,
    [id, Math.round(atMs), by, value, ended],
  );
  if (rows[0])
    await addEntry(
      connection,
      id,
      by === null ? "cleared" : "closed",
      atMs,
      by ?? "",
      ended === "gone" ? "It ended: nobody tells of it any more." : "",
    );
  return rows[0];
}

/** An open incident becomes urgent, or a notice again. */
export async function changeSeverity(
  connection: Connection,
  id: number,
  severity: Severity,
  atMs: number,
): Promise<IncidentView | undefined> {
  const { rows } = await connection.query<IncidentView>(
    `update incident set severity = $2::text where id = $1::bigint and cleared_at_ms is null returning ${incidentColumns}`,
    [id, severity],
  );
  if (rows[0]) await addEntry(connection, id, severity === "urgent" ? "worsened" : "eased", atMs);
  return rows[0];
}

/** Keeps the values furthest beyond their limits while incidents are open. */
export async function noteFurthest(database: Database, furthest: ReadonlyMap<number, number>): Promise<void> {
  if (furthest.size === 0) return;
  await database.query(
    `update incident set furthest = given.value from unnest($1::bigint[], $2::float8[]) as given (id, value) where incident.id = given.id and cleared_at_ms is null`,
    [[...furthest.keys()], [...furthest.values()]],
  );
}

/** Incidents that touch `[fromMs, toMs)`, newest first, and all that are open before them; those after one of them. */
export async function listIncidents(
  database: Database,
  fromMs: number,
  toMs: number,
  most: number,
  before?: number,
): Promise<readonly IncidentView[]> {
  const { rows } = await database.query<IncidentView>(
    `select ${incidentColumns}
     from incident
     where (cleared_at_ms is null or (raised_at_ms < $2::bigint and cleared_at_ms >= $1::bigint))
       and ($4::bigint is null or
            (cleared_at_ms is null, raised_at_ms, id) < (select cleared_at_ms is null, raised_at_ms, id from incident where id = $4::bigint))
     order by cleared_at_ms is not null, raised_at_ms desc, id desc
     limit $3::int`,
    [Math.floor(fromMs), Math.ceil(toMs), most, before ?? null],
  );
  return rows;
}

/** An incident with its rule as it was; undefined where there is none of this id. */
export async function incidentOf(
  database: Database,
  id: number,
): Promise<{ readonly incident: IncidentView; readonly document: RuleDocument | null } | undefined> {
  const { rows } = await database.query<IncidentView & { document: RuleDocument | null }>(
    `select ${incidentColumns}, document from incident where id = $1::bigint`,
    [id],
  );
  if (!rows[0]) return undefined;
  const { document, ...incident } = rows[0];
  return { incident, document: document && documentOf(document) }; // those of earlier versions hold more of their rule
}

/**
 * Closes what is open on a rule and forgets where its lines stand: it has been switched off, changed beyond comparison,
 * or is to be removed.
 */
export async function closeRule(
  connection: Connection,
  ruleId: number,
  atMs: number,
): Promise<readonly IncidentView[]> {
  const { rows } = await connection.query<IncidentView>(
    `update incident
     set cleared_at_ms = greatest($2::bigint, raised_at_ms), ended = 'rule'
     where rule_id = $1::int and cleared_at_ms is null
     returning ${incidentColumns}`,
    [ruleId, Math.round(atMs)],
  );
  for (const { id } of rows)
    await addEntry(connection, id, "cleared", atMs, "", "Its rule was changed, switched off or removed.");
  await connection.query("delete from rule_line where rule_id = $1::int", [ruleId]);
  return rows;
}

/** Removes incidents that ended before; what is open stays. */
export async function forgetIncidents(database: Database, beforeMs: number): Promise<void> {
  await database.query("delete from incident where cleared_at_ms < $1::bigint", [Math.floor(beforeMs)]);
  await database.query("delete from message where created_at_ms < $1::bigint", [Math.floor(beforeMs)]);
}

/** A line of a rule is no more. */
export async function deleteRuleLine(connection: Connection, ruleId: number, line: string): Promise<void> {
  await connection.query("delete from rule_line where rule_id = $1::int and line = $2::text", [ruleId, line]);
}

/** An incident is open of no line any more. */
export async function leaveIncident(connection: Connection, incidentId: number): Promise<void> {
  await connection.query("update rule_line set incident_id = null where incident_id = $1::bigint", [incidentId]);
}

/** Writes what a rehearsal found into the history of its rule: incidents that have ended. Those that are open still are raised by the rule itself. */
export async function insertPastIncidents(
  database: Database,
  rule: Rule,
  { incidents, lines, unit }: RehearsalAnswer,
): Promise<void> {
  const document = documentOf(rule);
  for (const { line, severity, raisedAtMs, clearedAtMs, value, furthest } of incidents) {
    if (clearedAtMs === null) continue;
    const limit = document[severity];
    const { rows } = await database.query<{ id: number }>(
      `insert into incident (rule_id, rule_name, severity, tags, compare, watch, limit_value, unit, raised_at_ms, cleared_at_ms, value, furthest, document)
       values ($1::int, $2::text, $3::text, $4::jsonb, $5::text, $6::text, $7::float8, $8::text, $9::bigint, $10::bigint, $11::float8, $12::float8, $13::jsonb)
       returning id::float8 as id`,
      [
        rule.id,
        document.name,
        severity,
        JSON.stringify(lines[line]?.tags ?? {}),
        document.compare,
        document.watch.kind,
        limit?.high ?? limit?.low ?? 0,
        unit,
        Math.round(raisedAtMs),
        Math.round(clearedAtMs),
        value,
        furthest,
        JSON.stringify(document),
      ],
    );
    const id = (rows[0] as { id: number }).id;
    await addEntry(database, id, "raised", raisedAtMs);
    await addEntry(database, id, "cleared", clearedAtMs);
  }
}

/** The incidents of silent sources that are open. */
export async function openSilences(
  database: Database,
): Promise<readonly { readonly id: number; readonly sourceId: number }[]> {
  const { rows } = await database.query<{ id: number; sourceId: number }>(
    `select id, source_id as "sourceId" from incident where source_id is not null and cleared_at_ms is null`,
  );
  return rows;
}

/** Incidents of which somebody may have to be told: open ones, and those of whose end somebody has not heard. */
export async function listTellable(database: Database): Promise<readonly IncidentView[]> {
  const { rows } = await database.query<IncidentView>(
    `select ${incidentColumns} from incident
     where cleared_at_ms is null or exists (select from incident_told where incident_id = incident.id and not has_recovered)`,
  );
  return rows;
}

/** Notes which quiet time hides an incident; null where none does. */
export async function writeQuietOf(database: Database, incidentId: number, quietId: number | null): Promise<void> {
  await database.query("update incident set quiet_id = $2::int where id = $1::bigint", [incidentId, quietId]);
}

/** The number of the newest incident; undefined where there has been none. */
export async function newestIncident(database: Database): Promise<number | undefined> {
  const { rows } = await database.query<{ id: number }>(
    "select id from incident order by raised_at_ms desc, id desc limit 1",
  );
  return rows[0]?.id;
}

/** Says who has acknowledged an open incident; null takes it back. Undefined where there is no such open one. */
export async function writeAcknowledged(
  connection: Connection,
  id: number,
  as: string | null,
  atMs: number | null,
): Promise<IncidentView | undefined> {
  const { rows } = await connection.query<IncidentView>(
    `update incident set acknowledged_by = $2::text, acknowledged_at_ms = $3::bigint where id = $1::bigint and cleared_at_ms is null returning ${incidentColumns}`,
    [id, as, atMs],
  );
  return rows[0];
}

/** Says until when nobody is told of an open incident. Undefined where there is no such open one. */
export async function writeSnoozed(
  connection: Connection,
  id: number,
  untilMs: number | null,
): Promise<IncidentView | undefined> {
  const { rows } = await connection.query<IncidentView>(
    `update incident set snoozed_until_ms = $2::bigint where id = $1::bigint and cleared_at_ms is null returning ${incidentColumns}`,
    [id, untilMs],
  );
  return rows[0];
}
