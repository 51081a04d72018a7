import type { DashboardListed, DashboardRevision, DashboardView } from "../../core/api/dashboards.ts";
import type { Dashboard } from "../../core/dashboards/dashboard.ts";
import type { Database } from "../db/pool.ts";

const ms = (column: string) => `(extract(epoch from ${column}) * 1000)::float8`;
const columns = `id, document, revision, ${ms("changed_at")} as "changedAtMs", changed_by as "changedBy"`;

/** All that are not removed, those with the person's star first. */
export async function listDashboards(
  database: Database,
  accountId: number | null,
): Promise<readonly DashboardListed[]> {
  const { rows } = await database.query<DashboardListed>(
    `select id, title, coalesce(document ->> 'description', '') as description, coalesce(document -> 'tags', '[]') as tags, jsonb_array_length(document -> 'tiles') as tiles,
            revision, ${ms("changed_at")} as "changedAtMs", changed_by as "changedBy", star.dashboard_id is not null as starred
     from dashboard left join dashboard_star star on star.dashboard_id = id and star.account_id = $1::int
     where removed_at is null
     order by starred desc, lower(title), id`,
    [accountId],
  );
  return rows;
}

export async function dashboardOf(database: Database, id: number): Promise<DashboardView | undefined> {
  const { rows } = await database.query<DashboardView>(
    `select ${columns} from dashboard where id = $1::int and removed_at is null`,
    [id],
  );
  return rows[0];
}

export async function insertDashboard(database: Database, document: Dashboard, by: string): Promise<DashboardView> {
  const { rows } = await database.query<DashboardView>(
    `with made as (insert into dashboard (title, document, changed_by) values ($1::text, $2::jsonb, $3::text) returning *),
          kept as (insert into dashboard_revision (dashboard_id, revision, document, changed_at, changed_by) select id, revision, document, changed_at, changed_by from made)
     select ${columns} from made`,
    [document.title, JSON.stringify(document), by],
  );
  return rows[0] as DashboardView;
}

/** Saves over the revision that was read; undefined where another has been saved meanwhile, or it is gone. */
export async function saveDashboard(
  database: Database,
  id: number,
  document: Dashboard,
  over: number,
  by: string,
): Promise<DashboardView | undefined> {
  const { rows } = await database.query<DashboardView>(
    `with saved as (update dashboard set title = $2::text, document = $3::jsonb, revision = revision + 1, changed_at = now(), changed_by = $5::text
                    where id = $1::int and revision = $4::int and removed_at is null returning *),
          kept as (insert into dashboard_revision (dashboard_id, revision, document, changed_at, changed_by) select id, revision, document, changed_at, changed_by from saved)
     select ${columns} from saved`,
    [id, document.title, JSON.stringify(document), over, by],
  );
  return rows[0];
}

/** Removed ones keep everything and can be put back. False where there is nothing to change. */
export async function setRemoved(database: Database, id: number, removed: boolean): Promise<boolean> {
  const { rowCount } = await database.query(
    `update dashboard set removed_at = case when $2::boolean then now() end where id = $1::int and (removed_at is null) = $2::boolean`,
    [id, removed],
  );
  return rowCount === 1;
}

/** Every document that was saved, the newest first. */
export async function revisionsOf(database: Database, id: number): Promise<readonly DashboardRevision[]> {
  const { rows } = await database.query<DashboardRevision>(
    `select revision, document, ${ms("changed_at")} as "changedAtMs", changed_by as "changedBy"
     from dashboard_revision where dashboard_id = $1::int order by revision desc limit 200`,
    [id],
  );
  return rows;
}

export async function setStar(database: Database, accountId: number, id: number, starred: boolean): Promise<void> {
  if (starred)
    await database.query(
      "insert into dashboard_star (account_id, dashboard_id) select $1::int, id from dashboard where id = $2::int on conflict do nothing",
      [accountId, id],
    );
  else
    await database.query("delete from dashboard_star where account_id = $1::int and dashboard_id = $2::int", [
      accountId,
      id,
    ]);
}
