import { Told } from "./told.mjs";

/** As libpq writes an address with several hosts: they stand with a comma between. */
const several = /^(postgres(?:ql)?:\/\/(?:[^@/?]*@)?)([^/?]+,[^/?]+)([/?].*)?$/;

/**
 * Of an address with several hosts that of the one which takes writes; any other address as it is. Throws Told where
 * none does.
 * @param {string} url
 */
export async function writableAddress(url) {
  const [, before, hosts, after = ""] = several.exec(url) ?? [];
  if (hosts === undefined) return url;
  const { default: pg } = await import("pg");
  const said = [];
  for (const host of hosts.split(",")) {
    const one = `${before}${host}${after}`;
    const client = new pg.Client({ connectionString: one, connectionTimeoutMillis: 5000 });
    client.on("error", () => {});
    try {
      await client.connect();
      const { rows } = await client.query("select pg_is_in_recovery() as standby");
      if (!rows[0].standby) return one;
      said.push(`${host} is a standby`);
    } catch (error) {
      said.push(`${host}: ${error.message || error.code}`);
    } finally {
      await client.end().catch(() => {});
    }
  }
  throw new Told(`No host of NUBREL_DATABASE_URL takes writes: ${said.join("; ")}.`);
}
