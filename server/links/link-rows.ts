import type { LinkBody, LinkView } from "../../core/api/links.ts";
import type { Dashboard } from "../../core/dashboards/dashboard.ts";
import type { Database } from "../db/pool.ts";

const ms = (column: string) => `(extract(epoch from ${column}) * 1000)::float8`;
const columns = `link.id, link.name, link.dashboard_id as dashboard, link.version, link.tile,
  to_char(link.until_at at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as until, link."window", link.origins,
  link.created_by as by, ${ms("link.created_at")} as "createdAtMs", ${ms("link.revoked_at")} as "revokedAtMs",
  link.opened, ${ms("link.last_opened_at")} as "lastOpenedAtMs"`;
/** What can still be opened: a dashboard that was removed shows nothing more. */
const isOpen = `link.revoked_at is null and (link.until_at is null or link.until_at > now())
  and exists (select from dashboard where id = link.dashboard_id and removed_at is null)`;

/** Makes a link to the newest version of a dashboard; undefined where there is no such dashboard. */
export async function insertLink(
  database: Database,
  { dashboard, tile, until, window, name = "", origins = [] }: LinkBody,
  { hash, by }: { readonly hash: Buffer; readonly by: string },
): Promise<LinkView | undefined> {
  const { rows } = await database.query<LinkView>(
    `insert into link (secret_hash, name, dashboard_id, version, tile, until_at, "window", origins, created_by)
     select $1::bytea, coalesce(nullif($2::text, ''), title), id, revision, $4::text, $5::timestamptz, $6::jsonb, $7::jsonb, $8::text
     from dashboard
     where id = $3::int and removed_at is null
     returning ${columns}`,
    [hash, name, dashboard, tile ?? null, until, JSON.stringify(window), JSON.stringify(origins), by],
  );
  return rows[0];
}

/** All of them, the newest first; those that ended stay to be told. */
export async function listLinkRows(database: Database): Promise<readonly LinkView[]> {
  const { rows } = await database.query<LinkView>(`select ${columns} from link order by id desc limit 1000`);
  return rows;
}

/** Has a link show its dashboard as it is now; undefined where none is open with this number. */
export async function renewLinkRow(database: Database, id: number): Promise<LinkView | undefined> {
  const { rows } = await database.query<LinkView>(
    `update link set version = (select revision from dashboard where id = link.dashboard_id)
     where id = $1::int and ${isOpen}
     returning ${columns}`,
    [id],
  );
  return rows[0];
}

/** Whether there was one that was not revoked. */
export async function revokeLinkRow(database: Database, id: number): Promise<boolean> {
  const { rowCount } = await database.query(
    "update link set revoked_at = now() where id = $1::int and revoked_at is null",
    [id],
  );
  return rowCount === 1;
}

/** A link that can be opened, with the version of the dashboard that it shows. */
export interface OpenLink extends LinkView {
  readonly document: Dashboard;
}

/** The link of a secret's hash; undefined where there is none, or it ended. */
export async function openLinkOf(database: Database, hash: Buffer): Promise<OpenLink | undefined> {
  const { rows } = await database.query<OpenLink>(
    `select ${columns}, kept.document
     from link
     join dashboard_revision kept on kept.dashboard_id = link.dashboard_id and kept.revision = link.version
     where secret_hash = $1::bytea and ${isOpen}`,
    [hash],
  );
  return rows[0];
}

export async function noteLinkOpened(database: Database, id: number): Promise<void> {
  await database.query("update link set opened = opened + 1, last_opened_at = now() where id = $1::int", [id]);
}
