import type { Rule, RuleDocument } from "../../core/rules/rule.ts";
import type { Database } from "../db/pool.ts";

/** A rule as stored. */
export interface StoredRule extends Rule {
  readonly changedBy: string;
  readonly changedAtMs: number;
  /** Of which ready-made one it was made; null where of none. */
  readonly readyMade: string | null;
}

interface Row {
  readonly id: number;
  readonly document: RuleDocument;
  readonly on: boolean;
  readonly changedBy: string;
  readonly changedAtMs: number;
  readonly readyMade: string | null;
}

const columns = `id, document, is_on as "on", changed_by as "changedBy", (extract(epoch from changed_at) * 1000)::float8 as "changedAtMs", ready_made as "readyMade"`;
const ruleOf = ({ document, ...rest }: Row): StoredRule => ({ ...document, ...rest });

export async function listRules(database: Database): Promise<readonly StoredRule[]> {
  const { rows } = await database.query<Row>(`select ${columns} from rule order by id`);
  return rows.map(ruleOf);
}

export async function insertRule(
  database: Database,
  document: RuleDocument,
  accountId: number | null,
  by = "",
  readyMade: string | null = null,
): Promise<StoredRule> {
  const { rows } = await database.query<Row>(
    `insert into rule (document, created_by, changed_by, ready_made) values ($1::jsonb, $2::int, $3::text, $4::text) returning ${columns}`,
    [JSON.stringify(document), accountId, by, readyMade],
  );
  return ruleOf(rows[0] as Row);
}

/** Undefined where there is no rule of this id. */
export async function updateRule(
  database: Database,
  id: number,
  document: RuleDocument,
  by: string,
): Promise<StoredRule | undefined> {
  const { rows } = await database.query<Row>(
    `update rule set document = $2::jsonb, changed_by = $3::text, changed_at = now() where id = $1::int returning ${columns}`,
    [id, JSON.stringify(document), by],
  );
  return rows[0] && ruleOf(rows[0]);
}

/** Switches a rule on or off; undefined where there is none of this id. */
export async function switchRule(database: Database, id: number, on: boolean): Promise<StoredRule | undefined> {
  const { rows } = await database.query<Row>(
    `update rule set is_on = $2::boolean where id = $1::int returning ${columns}`,
    [id, on],
  );
  return rows[0] && ruleOf(rows[0]);
}

export async function deleteRule(database: Database, id: number): Promise<boolean> {
  const { rowCount } = await database.query("delete from rule where id = $1::int", [id]);
  return rowCount === 1;
}
