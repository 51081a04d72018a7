import { randomBytes } from "node:crypto";
import { existsSync, readFileSync, realpathSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { Told } from "./told.mjs";

/**
 * Makes the two roles besides the cluster's administrator where they are missing, their passwords in
 * `folder/database-roles.json` (0600): `nubrel_owner` has the tables
 * and makes new ones (migrations), `nubrel_app` reads and writes rows and nothing else. Tables of earlier versions,
 * which were the administrator's, get their owner.
 * Answers the addresses with which each enters.
 * @param {string} administratorUrl
 * @param {string} folder
 */
export async function ensureRoles(administratorUrl, folder) {
  const file = join(folder, "database-roles.json");
  if (!existsSync(file))
    writeFileSync(
      file,
      JSON.stringify({ owner: randomBytes(24).toString("base64url"), app: randomBytes(24).toString("base64url") }),
      { mode: 0o600 },
    );
  const passwords = JSON.parse(readFileSync(file, "utf8"));
  const { default: pg } = await import("pg");
  const client = new pg.Client({ connectionString: administratorUrl });
  await client.connect();
  try {
    const { rows } = await client.query("show data_directory");
    const [asked, ours] = [realpathSync(rows[0].data_directory), realpathSync(join(folder, "postgres"))];
    if (asked !== ours)
      throw new Told(
        `At ${new URL(administratorUrl).host} answers the database of ${asked}, not that of ${ours}. Nothing was touched.`,
      );
    for (const [role, password] of [
      ["nubrel_owner", passwords.owner],
      ["nubrel_app", passwords.app],
    ]) {
      await client.query(
        `do $$ begin create role ${role} login nosuperuser nocreatedb nocreaterole; exception when duplicate_object then null; end $$`,
      );
      await client.query(`alter role ${role} password ${client.escapeLiteral(password)}`);
    }
    // The jobs' tables hide their rows from everybody but their owner; a policy for the role would stand in every dump.
    await client.query("alter role nubrel_app bypassrls");
    await client.query(`
      grant create, connect, temporary on database ${client.escapeIdentifier(new URL(administratorUrl).pathname.slice(1))} to nubrel_owner;
      grant create, usage on schema public to nubrel_owner;
      grant usage on schema public to nubrel_app`);
    await client.query(handOver);
  } finally {
    await client.end();
  }
  const as = (role, password) => {
    const url = new URL(administratorUrl);
    url.username = role;
    url.password = password;
    return url.href;
  };
  return { ownerUrl: as("nubrel_owner", passwords.owner), appUrl: as("nubrel_app", passwords.app) };
}

/**
 * What the administrator made before there was an owner, handed over object by object: `reassign owned` refuses to take
 * from the administrator.
 */
const handOver = `
do $$
declare it record;
begin
  for it in select nspname from pg_namespace where nspname = 'graphile_worker' and nspowner = 'nubrel'::regrole loop
    execute format('alter schema %I owner to nubrel_owner', it.nspname);
  end loop;
  for it in
    select c.oid::regclass as name, case c.relkind when 'S' then 'sequence' when 'v' then 'view' else 'table' end as kind
    from pg_class c join pg_namespace n on n.oid = relnamespace
    where nspname in ('public', 'graphile_worker') and relkind in ('r', 'p', 'S', 'v') and relowner = 'nubrel'::regrole
      and not exists (select from pg_depend where objid = c.oid and deptype in ('a', 'i', 'e') and c.relkind = 'S')
  loop
    execute format('alter %s %s owner to nubrel_owner', it.kind, it.name);
  end loop;
  for it in
    select p.oid::regprocedure as name
    from pg_proc p join pg_namespace n on n.oid = pronamespace
    where nspname in ('public', 'graphile_worker') and proowner = 'nubrel'::regrole
  loop
    execute format('alter routine %s owner to nubrel_owner', it.name);
  end loop;
  for it in
    select t.oid::regtype as name
    from pg_type t join pg_namespace n on n.oid = typnamespace left join pg_class c on c.oid = typrelid
    where nspname in ('public', 'graphile_worker') and typowner = 'nubrel'::regrole and typtype in ('c', 'd', 'e') and (typtype <> 'c' or c.relkind = 'c')
  loop
    execute format('alter type %s owner to nubrel_owner', it.name);
  end loop;
end $$`;
