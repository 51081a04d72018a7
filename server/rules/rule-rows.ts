import type { Rule } from "../../core/rules/rule.ts";
import type { Database } from "../db/pool.ts";

const columns = `id, name, reading, compare, limit_value as "limit", must_last_seconds as "mustLastSeconds",
  stays_raised_seconds as "staysRaisedSeconds", severity, is_on as "on"`;

export async function listRules(database: Database): Promise<readonly Rule[]> {
  const { rows } = await database.query<Rule>(`select ${columns} from rule order by id`);
  return rows;
}

export async function insertRule(database: Database, rule: Omit<Rule, "id" | "on">, accountId: number | null): Promise<Rule> {
  const { rows } = await database.query<Rule>(
    `insert into rule (name, reading, compare, limit_value, must_last_seconds, stays_raised_seconds, severity, created_by)
     values ($1::text, $2::jsonb, $3::text, $4::float8, $5::int, $6::int, $7::text, $8::int)
     returning ${columns}`,
    [rule.name, JSON.stringify(rule.reading), rule.compare, rule.limit, rule.mustLastSeconds, rule.staysRaisedSeconds, rule.severity, accountId],
  );
  return rows[0] as Rule;
}

/** Switches a rule on or off; undefined where there is none of this id. */
export async function switchRule(database: Database, id: number, on: boolean): Promise<Rule | undefined> {
  const { rows } = await database.query<Rule>(`update rule set is_on = $2::boolean where id = $1::int returning ${columns}`, [id, on]);
  return rows[0];
}

export async function deleteRule(database: Database, id: number): Promise<boolean> {
  const { rowCount } = await database.query("delete from rule where id = $1::int", [id]);
  return rowCount === 1;
}
