import { randomUUID } from "node:crypto";
import type { MessageView } from "../../core/api/messages.ts";
import type { Decision, Told } from "../../core/messages/decide.ts";
import type { Connection, Database } from "../db/pool.ts";

/** A message to be delivered. */
export interface StoredMessage {
  readonly id: string;
  readonly recipientId: number;
  readonly kind: Decision["kind"];
  readonly incidentIds: readonly number[];
  readonly createdAtMs: number;
  readonly state: MessageView["state"];
}

/** What has been told of incidents that are open or were told and not yet told to be over. */
export async function listTold(
  database: Database | Connection,
  incidentIds: readonly number[],
): Promise<readonly Told[]> {
  const { rows } = await database.query<Told>(
    `select incident_id as "incidentId", recipient_id as "recipientId", severity, first_at_ms as "firstAtMs", last_at_ms as "lastAtMs", has_escalated as "hasEscalated", has_recovered as "hasRecovered"
     from incident_told where incident_id = any ($1::bigint[])`,
    [incidentIds],
  );
  return rows;
}

/** Remembers what was told, and has the message delivered: one transaction, so that neither is without the other. */
export async function insertMessage(
  connection: Connection,
  decision: Decision,
  told: readonly Told[],
  nowMs: number,
): Promise<string> {
  const id = randomUUID();
  await connection.query(
    "insert into message (id, recipient_id, kind, incident_ids, created_at_ms) values ($1::uuid, $2::int, $3::text, $4::bigint[], $5::bigint)",
    [id, decision.recipientId, decision.kind, decision.incidentIds, Math.round(nowMs)],
  );
  await connection.query(
    `insert into incident_told (incident_id, recipient_id, severity, first_at_ms, last_at_ms, has_escalated, has_recovered)
     select * from unnest($1::bigint[], $2::int[], $3::text[], $4::bigint[], $5::bigint[], $6::boolean[], $7::boolean[])
     on conflict (incident_id, recipient_id) do update
     set severity = excluded.severity, last_at_ms = excluded.last_at_ms, has_escalated = excluded.has_escalated, has_recovered = excluded.has_recovered`,
    [
      told.map((one) => one.incidentId),
      told.map((one) => one.recipientId),
      told.map((one) => one.severity),
      told.map((one) => Math.round(one.firstAtMs)),
      told.map((one) => Math.round(one.lastAtMs)),
      told.map((one) => one.hasEscalated),
      told.map((one) => one.hasRecovered),
    ],
  );
  await connection.query(
    "select graphile_worker.add_job('deliver', json_build_object('message', $1::text), max_attempts => 30, queue_name => 'recipient ' || $2::int)",
    [id, decision.recipientId],
  );
  return id;
}

/**
 * Those who were told of an incident by an escalation have been; that they were is remembered at the first recipient.
 */
export async function noteEscalated(
  connection: Connection,
  recipientId: number,
  incidentIds: readonly number[],
): Promise<void> {
  await connection.query(
    "update incident_told set has_escalated = true where recipient_id = $1::int and incident_id = any ($2::bigint[])",
    [recipientId, incidentIds],
  );
}

export async function messageOf(database: Database, id: string): Promise<StoredMessage | undefined> {
  const { rows } = await database.query<StoredMessage>(
    `select id, recipient_id as "recipientId", kind, incident_ids::float8[] as "incidentIds", created_at_ms as "createdAtMs", state from message where id = $1::uuid`,
    [id],
  );
  return rows[0];
}

/**
 * Messages to a recipient that wait with this one and tell of some of its incidents, the oldest first; itself among
 * them.
 */
export async function waitingWith(
  database: Database,
  { recipientId, incidentIds }: Pick<StoredMessage, "recipientId" | "incidentIds">,
): Promise<readonly StoredMessage[]> {
  const { rows } = await database.query<StoredMessage>(
    `select id, recipient_id as "recipientId", kind, incident_ids::float8[] as "incidentIds", created_at_ms as "createdAtMs", state
     from message where state = 'waiting' and recipient_id = $1::int and incident_ids && $2::bigint[] order by created_at_ms, number`,
    [recipientId, incidentIds],
  );
  return rows;
}

export async function addAttempt(
  database: Database,
  messageId: string,
  worked: boolean,
  answer: string,
  atMs: number,
  state: MessageView["state"],
): Promise<void> {
  await database.query(
    `with tried as (insert into message_attempt (message_id, at_ms, worked, answer) values ($1::uuid, $2::bigint, $3::boolean, $4::text))
     update message set state = $5::text where id = $1::uuid`,
    [messageId, Math.round(atMs), worked, answer, state],
  );
}

/** Messages, the newest first; of one incident where it is given. */
export async function listMessages(
  database: Database,
  most: number,
  incidentId: number | null,
  before?: string,
): Promise<readonly MessageView[]> {
  const { rows } = await database.query<MessageView>(
    `select message.id, recipient_id as "recipientId", coalesce(recipient.settings ->> 'name', '') as recipient, kind, created_at_ms as "createdAtMs", state,
            (select coalesce(json_agg(json_build_object('id', incident.id, 'ruleName', incident.rule_name) order by incident.id), '[]') from incident where incident.id = any (incident_ids)) as incidents,
            (select coalesce(json_agg(json_build_object('atMs', at_ms, 'worked', worked, 'answer', answer) order by message_attempt.id), '[]') from message_attempt where message_id = message.id) as attempts
     from message left join recipient on recipient.id = recipient_id
     where ($2::bigint is null or incident_ids @> array[$2::bigint])
       and ($3::uuid is null or
            (created_at_ms, message.number) < (select before.created_at_ms, before.number from message as before where before.id = $3::uuid))
     order by created_at_ms desc, message.number desc
     limit $1::int`,
    [most, incidentId, before ?? null],
  );
  return rows;
}

/** Notes that a recipient need not be told any more that an incident is over. */
export async function noteRecovered(database: Database, incidentId: number, recipientId: number): Promise<void> {
  await database.query(
    "update incident_told set has_recovered = true where incident_id = $1::bigint and recipient_id = $2::int",
    [incidentId, recipientId],
  );
}
