import type { Connection, Database } from "../db/pool.ts";
import { extendLife, newPage, pageOf, pageSize, readStoredPage, seldomSlots, storedPage } from "./life-pages.ts";
import { seal, unseal } from "./seal.ts";

/** Series with higher numbers came when lives were noted already. */
export async function knownAfter(database: Database | Connection): Promise<number> {
  const { rows } = await database.query<{ id: number }>(
    "select value::text::int as id from setting where name = 'lives_are_known_after'",
  );
  return rows[0]?.id ?? 0;
}

/** All pages; of one that is damaged nothing is known. */
export async function lifePages(database: Database): Promise<readonly (readonly [page: number, lives: Int32Array])[]> {
  const { rows } = await database.query<{ page: number; lives: Buffer }>("select page, lives from series_life");
  return rows.flatMap(({ page, lives }) => {
    const read = readPage(lives);
    return read ? [[page, read] as const] : [];
  });
}

/**
 * Notes in the database that series have samples of a slot, with those that come seldom as if it were many slots to
 * both sides. Within the transaction that moves the samples there: where they are, this is as well.
 */
export async function noteLives(
  connection: Connection,
  slot: number,
  ids: Int32Array,
  isSeldom: (i: number) => boolean,
): Promise<void> {
  if (ids.length === 0) return;
  const known = await knownAfter(connection);
  const pages = new Map<number, Int32Array>();
  const wanted = [...new Set(Array.from(ids, pageOf))];
  const { rows } = await connection.query<{ page: number; lives: Buffer }>(
    "select page, lives from series_life where page = any($1::int[])",
    [wanted],
  );
  for (const { page, lives } of rows) pages.set(page, readPage(lives) ?? everKnown());
  for (let i = 0; i < ids.length; i++) {
    const id = ids[i] as number;
    let page = pages.get(pageOf(id));
    if (!page) pages.set(pageOf(id), (page = newPage()));
    const beyond = isSeldom(i) ? seldomSlots : 0;
    extendLife(page, id, slot - beyond, slot + beyond, id > known);
  }
  await connection.query(
    `insert into series_life (page, lives)
     select * from unnest($1::int[], $2::bytea[])
     on conflict (page) do update set lives = excluded.lives`,
    [[...pages.keys()], [...pages.values()].map((page) => seal(Buffer.concat([Buffer.from([1]), storedPage(page)])))],
  );
}

/** The slots of a page; undefined where it is damaged. */
function readPage(stored: Buffer): Int32Array | undefined {
  try {
    const end = unseal(stored);
    return stored[0] === 1 && end === 1 + pageSize * 8 ? readStoredPage(stored.subarray(1, end)) : undefined;
  } catch {
    return undefined;
  }
}

/** Of a damaged page: every series may have been there always. */
function everKnown(): Int32Array {
  const page = newPage();
  for (let id = 0; id < pageSize; id++) extendLife(page, id, 0, 2 ** 30, false);
  return page;
}
