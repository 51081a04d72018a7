import { chownSync, existsSync, readFileSync, renameSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";

const ownFile = "nubrel.conf";
const mode = 0o600;

/** What was written among the settings of its owner before there was a file for it. */
const formerly = {
  listen_addresses: "127.0.0.1",
  unix_socket_directories: "",
  password_encryption: "scram-sha-256",
  max_connections: "40",
  shared_buffers: "64MB",
  jit: "off",
  wal_compression: "on",
  max_wal_size: "512MB",
  synchronous_commit: "on",
  log_min_messages: "warning",
};

/**
 * How a cluster of its own is set; docs/decisions.md says why and what was measured. Only loopback, no sockets in
 * shared folders; no planner JIT, which doubles the time of short queries; what is kept for a standby that never takes
 * it, and what a query may put on disk, end before the disk does.
 */
const clusterSettings = { ...formerly, max_slot_wal_keep_size: "8GB", temp_file_limit: "4GB" };

/**
 * Puts the settings where a cluster that does not run will read them, below what its owner sets by ALTER SYSTEM. Those
 * of an older version are taken out from there. Where nothing can be written, as on a full disk, it starts as it was.
 * @param {string} data the cluster's folder
 * @param {{ uid?: number, gid?: number }} owner
 */
export function settleCluster(data, owner) {
  const lines = Object.entries(clusterSettings).map(([name, value]) => `${name} = '${value}'\n`);
  const isThere = replaced(
    data,
    ownFile,
    owner,
    () =>
      `# Written at every start. Set something else by: alter system set NAME = 'VALUE'; that wins over this file.\n${lines.join("")}`,
  );
  const include = `include_if_exists = '${ownFile}'`;
  if (
    isThere &&
    replaced(data, "postgresql.conf", owner, (text) =>
      text.split("\n").includes(include) ? text : `${text.trimEnd()}\n\n${include}\n`,
    )
  )
    replaced(data, "postgresql.auto.conf", owner, (text) =>
      text
        .split("\n")
        .filter((line) => !isFormer(line))
        .join("\n"),
    );
}

/** Whether a file says what it should, by then. */
function replaced(data, name, owner, change) {
  const file = join(data, name);
  const part = `${file}.part`;
  const before = existsSync(file) ? readFileSync(file, "utf8") : "";
  const after = change(before);
  if (after === before) return true;
  try {
    writeFileSync(part, after, { mode });
    if (owner.uid !== undefined) chownSync(part, owner.uid, owner.gid);
    renameSync(part, file);
    return true;
  } catch {
    rmSync(part, { recursive: true, force: true });
    return false;
  }
}

function isFormer(line) {
  const [, name, value] = /^(\w+) = '?([^']*?)'?$/.exec(line) ?? [];
  return name !== undefined && formerly[name] === value;
}
