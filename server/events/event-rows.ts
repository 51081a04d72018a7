import type { PageQuery } from "../../core/api/page-query.ts";
import { slowEventKind } from "../../core/slowness/slow-spells.ts";
import type { MachineEvent } from "../../core/events/machine-event.ts";
import type { Database } from "../db/pool.ts";

export type NewEvent = Omit<MachineEvent, "id"> & { readonly sourceId?: number };

export const mostListed = 2000;
const columns = `id::float8 as id, from_ms::float8 as "fromMs", to_ms::float8 as "toMs", kind, machine, text, tags`;

/**
 * Stores what happened; the answer comes when it is durable. What a source tells again word for word, of the same moment,
 * is the event that is there: it did not hear that it was stored.
 */
export async function insertEvents(database: Database, events: readonly NewEvent[]): Promise<void> {
  if (events.length === 0) return;
  await database.query(
    `insert into event (from_ms, to_ms, kind, machine, text, tags, source_id)
     select from_ms, to_ms, kind, machine, text, tags::jsonb, (select id from source where id = given.source_id)
     from unnest($1::bigint[], $2::bigint[], $3::text[], $4::text[], $5::text[], $6::text[], $7::int[]) as given (from_ms, to_ms, kind, machine, text, tags, source_id)
     where not exists (
       select from event as known
       where (known.source_id, known.from_ms, known.to_ms, known.kind, known.machine, known.text, known.tags)
         = (given.source_id, given.from_ms, given.to_ms, given.kind, given.machine, given.text, given.tags::jsonb)
     )`,
    [
      events.map(({ fromMs }) => Math.floor(fromMs)),
      events.map(({ fromMs, toMs }) => Math.floor(Math.max(fromMs, toMs))),
      events.map(({ kind }) => kind),
      events.map(({ machine }) => machine),
      events.map(({ text }) => text.slice(0, 2000)),
      events.map(({ tags }) => JSON.stringify(tags)),
      events.map(({ sourceId }) => sourceId ?? null),
    ],
  );
}

/** Stores one event and gives it back as it is listed. */
export async function insertEvent(
  database: Database,
  { fromMs, toMs, kind, machine, text, tags, sourceId }: NewEvent,
): Promise<MachineEvent> {
  const { rows } = await database.query<MachineEvent>(
    `insert into event (from_ms, to_ms, kind, machine, text, tags, source_id)
     values ($1::bigint, $2::bigint, $3::text, $4::text, $5::text, $6::jsonb, $7::int)
     returning ${columns}`,
    [Math.floor(fromMs), Math.floor(toMs), kind, machine, text, JSON.stringify(tags), sourceId ?? null],
  );
  return rows[0] as MachineEvent;
}

/** What goes on is told anew in the event that it began with; nothing where that was taken away. */
export async function changeEvent(
  database: Database,
  id: number,
  { fromMs, toMs, text, tags }: Pick<NewEvent, "fromMs" | "toMs" | "text" | "tags">,
): Promise<void> {
  await database.query(
    "update event set from_ms = $2::bigint, to_ms = $3::bigint, text = $4::text, tags = $5::jsonb where id = $1::bigint",
    [id, Math.floor(fromMs), Math.floor(toMs), text, JSON.stringify(tags)],
  );
}

/** Leaves what ended before a moment: nothing that was gathered then is there any more. */
export async function forgetEvents(database: Database, beforeMs: number): Promise<void> {
  await database.query("delete from event where to_ms < $1::bigint", [Math.floor(beforeMs)]);
}

/**
 * Takes an event away and gives what it was, so that it can be put back; undefined where there is none, or a source
 * told it.
 */
export async function removeEvent(database: Database, id: number): Promise<MachineEvent | undefined> {
  const { rows } = await database.query<MachineEvent>(
    `delete from event where id = $1::bigint and source_id is null returning ${columns}`,
    [id],
  );
  return rows[0];
}

/**
 * Of its parameters: from, to, machine, how many, and the event before which they lie. What took long of Nubrel itself
 * (server/slowness) is told on a page of its own: on a slow machine it would hide what people noted. Exported for its test.
 */
export const eventsOfWindow = `select * from (
   select ${columns}
   from event
   where int8range(from_ms, to_ms, '[]') && int8range($1::bigint, $2::bigint) and kind <> '${slowEventKind}' and ($3::text is null or machine = $3::text)
     and ($5::bigint is null or (from_ms, id) < (select from_ms, id from event where id = $5::bigint))
   order by from_ms desc, id desc
   limit $4::int) newest
 order by "fromMs", id`;

/**
 * The events that touch `[fromMs, toMs)`, oldest first; of more than `most` the newest, or the newest of those that lie
 * before one of them.
 */
export async function listEvents(
  database: Database,
  fromMs: number,
  toMs: number,
  machine?: string,
  { most = mostListed, before }: PageQuery = {},
): Promise<readonly MachineEvent[]> {
  const { rows } = await database.query<MachineEvent>(eventsOfWindow, [
    Math.floor(fromMs),
    Math.ceil(toMs),
    machine ?? null,
    most,
    before ?? null,
  ]);
  return rows;
}

/** The newest events of a kind that reach beyond a moment, the newest first. */
export async function newestOfKind(
  database: Database,
  kind: string,
  fromMs: number,
  most: number,
): Promise<readonly MachineEvent[]> {
  const { rows } = await database.query<MachineEvent>(
    `select ${columns} from event where kind = $1::text and to_ms >= $2::bigint order by from_ms desc, id desc limit $3::int`,
    [kind, Math.floor(fromMs), most],
  );
  return rows;
}

/** All events of a kind that touch `[fromMs, toMs)`, oldest first, however many others there are. */
export async function listEventsOfKind(
  database: Database,
  kind: string,
  fromMs: number,
  toMs: number,
): Promise<readonly MachineEvent[]> {
  const { rows } = await database.query<MachineEvent>(
    `select ${columns} from event where kind = $1::text and int8range(from_ms, to_ms, '[]') && int8range($2::bigint, $3::bigint) order by from_ms, id`,
    [kind, Math.floor(fromMs), Math.ceil(toMs)],
  );
  return rows;
}
