import type { Tags } from "../../core/counters/counter.ts";
import type { Effect, IncidentView, LineState, Rule } from "../../core/rules/rule.ts";
import type { Source } from "../../core/sources/source.ts";
import type { Connection, Database } from "../db/pool.ts";

/** A line of a rule as stored: its state and the incident that is open on it. */
export interface StoredLine {
  readonly ruleId: number;
  readonly line: string;
  readonly mode: LineState["mode"];
  readonly sinceMs: number;
  readonly incidentId: number | null;
}

const columns = `id, coalesce(rule_id, 0) as "ruleId", rule_name as "ruleName", severity, tags, compare, limit_value as "limit", unit,
  raised_at_ms as "raisedAtMs", cleared_at_ms as "clearedAtMs", value, furthest`;

export async function listRuleLines(database: Database): Promise<readonly StoredLine[]> {
  const { rows } = await database.query<StoredLine>(`select rule_id as "ruleId", line, mode, since_ms as "sinceMs", incident_id as "incidentId" from rule_line`);
  return rows;
}

export async function upsertRuleLine(connection: Connection, line: StoredLine): Promise<void> {
  await connection.query(
    `insert into rule_line (rule_id, line, mode, since_ms, incident_id)
     values ($1::int, $2::text, $3::text, $4::bigint, $5::bigint)
     on conflict (rule_id, line) do update
     set mode = excluded.mode, since_ms = excluded.since_ms, incident_id = excluded.incident_id`,
    [line.ruleId, line.line, line.mode, line.sinceMs, line.incidentId],
  );
}

export async function openIncident(connection: Connection, rule: Rule, tags: Tags, unit: string, raised: Effect): Promise<IncidentView> {
  const { rows } = await connection.query<IncidentView>(
    `insert into incident (rule_id, rule_name, severity, tags, compare, limit_value, unit, raised_at_ms, value, furthest)
     values ($1::int, $2::text, $3::text, $4::jsonb, $5::text, $6::float8, $7::text, $8::bigint, $9::float8, $9::float8)
     returning ${columns}`,
    [rule.id, rule.name, rule.severity, JSON.stringify(tags), rule.compare, rule.limit, unit, raised.atMs, raised.value],
  );
  return rows[0] as IncidentView;
}

/** Opens the incident of a silent source; undefined where one is open already. Limit and value are seconds of silence. */
export async function openSilence(database: Database, source: Pick<Source, "id" | "name" | "machine">, limit: number, value: number, atMs: number): Promise<IncidentView | undefined> {
  const { rows } = await database.query<IncidentView>(
    `insert into incident (source_id, rule_name, severity, tags, compare, limit_value, unit, raised_at_ms, value, furthest)
     values ($1::int, $2::text, 'notice', $3::jsonb, 'silent', $4::float8, 's', $5::bigint, $6::float8, $6::float8)
     on conflict do nothing
     returning ${columns}`,
    [source.id, `${source.name} is silent`, JSON.stringify({ machine: source.machine }), limit, atMs, value],
  );
  return rows[0];
}

/** Closes an incident. What was furthest of a silence is how long it lasted. */
export async function closeIncident(connection: Connection | Database, id: number, atMs: number): Promise<IncidentView | undefined> {
  const { rows } = await connection.query<IncidentView>(
    `update incident
     set cleared_at_ms = greatest($2::bigint, raised_at_ms), furthest = case compare when 'silent' then value + (greatest($2::bigint, raised_at_ms) - raised_at_ms) / 1000.0 else furthest end
     where id = $1::bigint and cleared_at_ms is null
     returning ${columns}`,
    [id, atMs],
  );
  return rows[0];
}

/** Keeps the value furthest beyond the limit while an incident is open. */
export async function noteFurthest(database: Database, id: number, value: number): Promise<void> {
  await database.query(
    `update incident
     set furthest = case compare when 'above' then greatest(furthest, $2::float8) else least(furthest, $2::float8) end
     where id = $1::bigint`,
    [id, value],
  );
}

/** Incidents that touch `[fromMs, toMs)`, newest first, and all that are open. */
export async function listIncidents(database: Database, fromMs: number, toMs: number, most: number): Promise<readonly IncidentView[]> {
  const { rows } = await database.query<IncidentView>(
    `select ${columns}
     from incident
     where cleared_at_ms is null or (raised_at_ms < $2::bigint and cleared_at_ms >= $1::bigint)
     order by cleared_at_ms is not null, raised_at_ms desc, id desc
     limit $3::int`,
    [Math.floor(fromMs), Math.ceil(toMs), most],
  );
  return rows;
}

/** Closes what is open on a rule and forgets where its lines stand: it has been switched off or is to be removed. */
export async function closeRule(connection: Connection, ruleId: number, atMs: number): Promise<readonly IncidentView[]> {
  const { rows } = await connection.query<IncidentView>(
    `update incident
     set cleared_at_ms = greatest($2::bigint, raised_at_ms)
     where rule_id = $1::int and cleared_at_ms is null
     returning ${columns}`,
    [ruleId, atMs],
  );
  await connection.query("delete from rule_line where rule_id = $1::int", [ruleId]);
  return rows;
}
