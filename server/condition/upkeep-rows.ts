import type { UpkeepView } from "../../core/api/condition.ts";
import type { Database } from "../db/pool.ts";

const mostTables = 8;

/** How the database is looked after, as it tells itself: its largest tables with what was left behind in them, and what it keeps beside. */
export async function readUpkeep(database: Database): Promise<UpkeepView> {
  const [tables, whole] = await Promise.all([readTables(database), readWhole(database)]);
  return { tables, ...whole };
}

/** The largest tables; the parts of one that is divided by time are one. */
async function readTables(database: Database): Promise<UpkeepView["tables"]> {
  const { rows } = await database.query<UpkeepView["tables"][number]>(
    `select coalesce(parent.relname, own.relname) as name,
       count(*)::int as parts,
       sum(pg_total_relation_size(own.oid))::float8 as "sizeBytes",
       sum(stat.n_live_tup)::float8 as rows,
       sum(stat.n_dead_tup)::float8 as "deadRows",
       (extract(epoch from max(greatest(stat.last_vacuum, stat.last_autovacuum))) * 1000)::float8 as "cleanedAtMs"
     from pg_class own
     join pg_stat_user_tables stat on stat.relid = own.oid
     left join pg_inherits on inhrelid = own.oid
     left join pg_class parent on parent.oid = inhparent
     where own.relkind = 'r' and own.relnamespace = current_schema()::regnamespace
     group by 1
     order by "sizeBytes" desc, name
     limit $1::int`,
    [mostTables],
  );
  return rows;
}

async function readWhole(database: Database): Promise<Omit<UpkeepView, "tables">> {
  const { rows } = await database.query<Omit<UpkeepView, "tables">>(
    `select age(datfrozenxid)::float8 / current_setting('autovacuum_freeze_max_age')::float8 as "ageShare",
       current_setting('autovacuum')::bool as "isAutovacuumOn",
       (select setting::float8 * 1048576 from pg_settings where name = 'max_wal_size') as "mostWalBytes",
       coalesce((select max(pg_wal_lsn_diff(pg_current_wal_lsn(), restart_lsn)) from pg_replication_slots), 0)::float8 as "keptWalBytes",
       (select nullif(setting::float8, -1) * 1048576 from pg_settings where name = 'max_slot_wal_keep_size') as "mostKeptWalBytes",
       (select coalesce(json_agg(slot_name order by slot_name), '[]') from pg_replication_slots where wal_status = 'lost') as "lostSlots",
       (select nullif(setting::float8, -1) * 1024 from pg_settings where name = 'temp_file_limit') as "mostTempBytes",
       stat.temp_bytes::float8 as "tempBytes",
       stat.temp_files::float8 as "tempFiles"
     from pg_database
     join pg_stat_database stat on stat.datid = pg_database.oid
     where pg_database.datname = current_database()`,
  );
  return rows[0] as (typeof rows)[0];
}
