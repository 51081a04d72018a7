import { existsSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import { runCommand } from "./run-command.mjs";
import { say, Told } from "./told.mjs";

/**
 * Folder of the newest PostgreSQL's programs, of major version `major` where one is asked for; undefined where there is
 * none.
 */
export const findPostgres = (major) => foundWith("initdb", major);

/** Folder of the programs that ask a PostgreSQL elsewhere: backups need no more. Undefined where there is none. */
export const findPostgresClient = (major) => foundWith("pg_dump", major);

function foundWith(program, major) {
  const root = "/usr/lib/postgresql";
  const versions = existsSync(root)
    ? readdirSync(root).filter((name) => existsSync(`${root}/${name}/bin/${program}`))
    : [];
  const found =
    major === undefined ? versions.sort((a, b) => Number(b) - Number(a))[0] : versions.find((name) => name === major);
  return found === undefined ? undefined : `${root}/${found}/bin`;
}

export async function ensurePostgres() {
  if (findPostgres()) return;
  if (isContained() && process.getuid() !== 0)
    throw new Told(
      "There is no PostgreSQL in this container, and nothing can be installed in it: set NUBREL_DATABASE_URL to one beside it, as packaging/compose.yaml does.",
    );
  await withoutMainCluster(() => ensureInstalled("PostgreSQL", ["postgresql"], () => findPostgres() !== undefined));
}

export async function ensureBrowser() {
  const there = () => existsSync("/usr/bin/chromium") && existsSync("/usr/bin/chromedriver");
  if (!there()) await ensureInstalled("Chromium and ChromeDriver", ["chromium", "chromium-driver"], there);
}

/** Engines leave a file or a variable by which that is told (server/transport/contained.ts). */
const isContained = () =>
  existsSync("/run/.containerenv") || existsSync("/.dockerenv") || (process.env.container ?? "") !== "";

async function ensureInstalled(what, packages, there) {
  const command = `apt-get update && apt-get install -y --no-install-recommends ${packages.join(" ")}`;
  if (process.getuid() !== 0)
    throw new Told(`${what} is missing. Install it once with:\n\n  sudo sh -c "${command}"\n\nand start again.`);
  if (!existsSync("/usr/bin/apt-get"))
    throw new Told(
      `${what} is missing, and this is no Debian that could install it. Install ${packages.join(", ")} by this system's own means, or set NUBREL_DATABASE_URL to a PostgreSQL that runs.`,
    );
  say(`Installing ${what} from Debian's packages (once; about a minute) ...`);
  const { code, output } = await runCommand("sh", ["-c", command], {
    env: { ...process.env, DEBIAN_FRONTEND: "noninteractive" },
  });
  if (code !== 0 || !there())
    throw new Told(
      `${what} could not be installed:\n\n${output.split("\n").slice(-15).join("\n")}\nRun this yourself to see why: ${command}`,
    );
}

/**
 * Debian's package would make and start a cluster of its own, which nobody asked for: told not to, for this
 * installation only.
 */
async function withoutMainCluster(install) {
  const file = "/etc/postgresql-common/createcluster.conf";
  if (process.getuid() === 0 && !existsSync(file) && existsSync("/usr/bin/apt-get")) {
    await runCommand("sh", ["-c", "apt-get update && apt-get install -y --no-install-recommends postgresql-common"], {
      env: { ...process.env, DEBIAN_FRONTEND: "noninteractive" },
    });
  }
  const before = existsSync(file) && process.getuid() === 0 ? readFileSync(file, "utf8") : undefined;
  if (before !== undefined) writeFileSync(file, `${before}\ncreate_main_cluster = false\n`);
  try {
    await install();
  } finally {
    if (before !== undefined) writeFileSync(file, before);
  }
}
