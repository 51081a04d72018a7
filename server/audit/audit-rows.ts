import type { PageQuery } from "../../core/api/page-query.ts";
import type { AuditQuery, Deed } from "../../core/api/audit.ts";
import type { Database } from "../db/pool.ts";

export type NewDeed = Omit<Deed, "id" | "atMs" | "words">;
export type DeedRow = Omit<Deed, "words">;

export async function insertDeed(
  database: Database,
  { who, knownBy, place, did, subject, before, after, outcome }: NewDeed,
): Promise<void> {
  await database.query(
    `insert into audit (who, known_by, place, did, subject, before, after, outcome)
     values ($1::text, $2::text, $3::text, $4::text, $5::text, $6::jsonb, $7::jsonb, $8::text)`,
    [who, knownBy, place, did, subject, jsonOf(before), jsonOf(after), outcome],
  );
}

/** Writes down what was done in the shell. */
export async function noteByShell(of: Database, did: string, subject: string): Promise<void> {
  await insertDeed(of, {
    ...{ who: "the shell", knownBy: "command", place: "", did, outcome: "done" },
    ...{ subject, before: null, after: null },
  });
}

const jsonOf = (value: unknown) => (value === undefined || value === null ? null : JSON.stringify(value));

/** Deeds that fit, the newest first; `dids` are routes whose words fit the text. */
export async function listDeedRows(
  database: Database,
  { from, to, who, text, refused, before, most = 200 }: AuditQuery & PageQuery,
  dids: readonly string[],
): Promise<readonly DeedRow[]> {
  const { rows } = await database.query<DeedRow>(
    `select id::float8 as id, (extract(epoch from at) * 1000)::float8 as "atMs", who, known_by as "knownBy", place, did, subject, before, after, outcome
     from audit
     where ($1::float8 is null or at >= to_timestamp($1::float8 / 1000))
       and ($2::float8 is null or at < to_timestamp($2::float8 / 1000))
       and ($3::text is null or lower(who) = lower($3::text))
       and ($4::text is null or position(lower($4::text) in lower(did || ' ' || subject)) > 0 or did = any($5::text[]))
       and ($6::boolean is null or (outcome <> 'done') = $6::boolean)
       and ($7::float8 is null or id < $7::bigint)
     order by id desc
     limit $8::int`,
    [from ?? null, to ?? null, who ?? null, text ?? null, dids, refused ?? null, before ?? null, most],
  );
  return rows;
}

/** Those older than a moment are forgotten by the tables' owner, never younger ones than thirty days. */
export async function forgetDeeds(database: Database, beforeMs: number): Promise<void> {
  await database.query("select forget_audit(to_timestamp($1::float8 / 1000))", [beforeMs]);
}
