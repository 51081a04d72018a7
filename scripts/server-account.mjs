import { execFile } from "node:child_process";
import { existsSync, lchownSync, readdirSync, statSync } from "node:fs";
import { join } from "node:path";
import { promisify } from "node:util";
import { plainEnvironment } from "./cluster.mjs";

const run = promisify(execFile);
const account = "nubrel";
/** Sockets of container engines: whoever is in their group may speak to them. */
const sockets = ["/run/docker.sock", "/run/podman/podman.sock"];

/**
 * Started by root, the server runs under an account of its own, which is made where it is missing: answers the program
 * and its first arguments that start another as that account, and a
 * sentence where that cannot be. Started by anybody else, the server runs as that account and nothing is put before it.
 * @param {string} script what the account must be able to read
 */
export async function serverAccount(script) {
  if (process.getuid() !== 0) return { before: [], ids: undefined, problem: undefined };
  try {
    if (!(await idsOf(account)))
      await run(
        "useradd",
        [
          "--system",
          "--user-group",
          "--no-create-home",
          "--home-dir",
          "/nonexistent",
          "--shell",
          "/usr/sbin/nologin",
          account,
        ],
        { env: plainEnvironment() },
      );
    const ids = await idsOf(account);
    if (!ids) throw new Error(`the account ${account} could not be made`);
    const groups = [
      ...new Set([ids.gid, ...sockets.filter((path) => existsSync(path)).map((path) => statSync(path).gid)]),
    ].filter((gid) => gid !== 0);
    const before = [
      "setpriv",
      `--reuid=${ids.uid}`,
      `--regid=${ids.gid}`,
      `--groups=${groups.join(",")}`,
      "--no-new-privs",
      "--",
    ];
    await run(before[0], [...before.slice(1), process.execPath, "--check", script], { env: plainEnvironment() });
    return { before, ids, problem: undefined };
  } catch (error) {
    const said = String(error.stderr || error.message)
      .trim()
      .split("\n")[0];
    return {
      before: [],
      ids: undefined,
      problem: `The server runs as root: it could not be started under an account of its own (${said}). Put Nubrel into a folder that all accounts may read, /opt/nubrel say.`,
    };
  }
}

/** Gives a folder of the server's to its account, with what is in it. Links are not followed. */
export function giveTo(ids, folder) {
  if (!ids) return;
  for (const name of readdirSync(folder, { recursive: true })) lchownSync(join(folder, name), ids.uid, ids.gid);
  lchownSync(folder, ids.uid, ids.gid);
}

async function idsOf(name) {
  try {
    const { stdout } = await run("getent", ["passwd", name]);
    const fields = stdout.trim().split(":");
    return { uid: Number(fields[2]), gid: Number(fields[3]) };
  } catch {
    return undefined;
  }
}
