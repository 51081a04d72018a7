import { X509Certificate } from "node:crypto";
import { existsSync, readFileSync, statfsSync, statSync } from "node:fs";
import { createServer } from "node:net";
import { join } from "node:path";
import { backupSettings, backupsIn } from "./backups.mjs";
import { ownFolder } from "./data-folder.mjs";
import { runCommand } from "./run-command.mjs";

// What `bin/nubrel doctor` looks at around the data, before it looks at the data itself.

/**
 * @typedef {object} Finding
 * @property {string} what
 * @property {string} found
 * @property {string} [todo] what to do; without it all is well
 */

const dayMs = 86_400_000;
const leastFreeBytes = 1e9;
const leastFreeShare = 0.1;
const certificateDays = 21;
const oldestBackupDays = 2;
const mostApartMs = 2000;

/** Everything that can be seen from here. `client` asks the database; `running` is what the start command noted. */
export async function lookAround({ env, folder, running, client }) {
  return [
    versions(process.versions.node),
    ...(existsSync(folder) ? [space(folder, statfsSync(folder)), ...secretsIn(folder)] : []),
    await port(env, running),
    await clock(),
    ...(await database(client)),
    ...certificates(env, folder, Date.now()),
    ...backups(env, Date.now()),
  ];
}

export function versions(node) {
  const [major, minor] = node.split(".").map(Number);
  const isOld = major < 20 || (major === 20 && minor < 19);
  return {
    what: "Node.js",
    found: node,
    ...(isOld && { todo: "Install Node.js 20.19 or later: apt-get install nodejs on Debian 13." }),
  };
}

/** @param {{ bavail: number, blocks: number, bsize: number }} stat */
export function space(folder, { bavail, blocks, bsize }) {
  const free = bavail * bsize;
  const share = bavail / blocks;
  return {
    what: "disk",
    found: `${gigabytes(free)} free of ${gigabytes(blocks * bsize)}, where ${folder} is`,
    ...((free < leastFreeBytes || share < leastFreeShare) && {
      todo: "Make room there, or keep samples for a shorter time: Sources, What it costs.",
    }),
  };
}

/** Files that open the data: nobody but their owner may read them. */
function secretsIn(folder) {
  return ["postgres-password", "database-roles.json", "own/secrets.key", "own/house/authority.key"].flatMap((name) => {
    const file = join(folder, name);
    return existsSync(file) ? [secret(file, statSync(file).mode)] : [];
  });
}

export function secret(file, mode) {
  const rights = (mode & 0o777).toString(8).padStart(4, "0");
  return {
    what: "rights",
    found: `${file} is ${rights}`,
    ...((mode & 0o077) !== 0 && { todo: `Others may read what opens the data: chmod 600 ${file}` }),
  };
}

async function port(env, running) {
  if (running?.address) {
    const answer = await fetch(loopbackOf(`${running.address}/api/health`), {
      signal: AbortSignal.timeout(5000),
    }).then(
      (response) => response.status,
      (error) =>
        error.cause?.code === "DEPTH_ZERO_SELF_SIGNED_CERT" || /certificate/.test(String(error.cause)) ? 200 : null,
    );
    return {
      what: "server",
      found: answer === null ? `does not answer at ${running.address}` : `answers at ${running.address}`,
      ...(answer === null && {
        todo: "Look at its log; stop it with Ctrl+C or systemctl stop nubrel, and start it again.",
      }),
    };
  }
  const wanted = Number(env.NUBREL_PORT || 7373);
  const isFree = await new Promise((resolve) => {
    const probe = createServer();
    probe.once("error", () => resolve(false));
    probe.listen(wanted, env.NUBREL_HOST || "127.0.0.1", () => probe.close(() => resolve(true)));
  });
  return {
    what: "port",
    found: `${wanted} is ${isFree ? "free, and Nubrel does not run" : "taken by another program"}`,
    ...(!isFree && { todo: "End that program, or choose another port with NUBREL_PORT." }),
  };
}

function loopbackOf(address) {
  const url = new URL(address);
  if (url.hostname === "0.0.0.0" || url.hostname === "[::]") url.hostname = "localhost";
  return url;
}

/** systemd knows whether the clock is kept by the network's time; elsewhere that is not known. */
async function clock() {
  const { code, output } = await runCommand("timedatectl", ["show", "--property=NTPSynchronized", "--value"]).catch(
    () => ({ code: 1, output: "" }),
  );
  return kept(code === 0 ? output.trim() : "");
}

export function kept(said) {
  if (said !== "yes" && said !== "no") return { what: "clock", found: "not known here whether it is kept by NTP" };
  return {
    what: "clock",
    found: said === "yes" ? "kept by NTP" : "kept by nobody",
    ...(said === "no" && {
      todo: "Have it kept: apt-get install systemd-timesyncd. Samples stand where the clock says.",
    }),
  };
}

async function database(client) {
  if (!client) return [];
  const began = Date.now();
  const { rows } = await client.query(
    `select current_setting('server_version') as version, extract(epoch from clock_timestamp()) * 1000 as now,
      (select jsonb_object_agg(name, setting) from pg_settings
        where name in ('fsync', 'full_page_writes', 'autovacuum', 'data_checksums', 'max_connections', 'synchronous_commit')) as settings`,
  );
  const [{ version, now, settings }] = rows;
  return [
    {
      what: "PostgreSQL",
      found: version,
      ...(Number.parseInt(version, 10) < 15 && { todo: "15 or later is tested." }),
    },
    ...databaseSettings(settings),
    ...oldSenders(await sendersOf(client), ownVersion()),
    ...clocksApart(Number(now) - (began + Date.now()) / 2),
  ];
}

const ownVersion = () => JSON.parse(readFileSync(new URL("../package.json", import.meta.url), "utf8")).version;

/** Collectors and relays, and which version each has told; none of a database that is not set up, or older than that. */
async function sendersOf(client) {
  const { rows } = await client
    .query(
      `select name, kind, sender_version as version from source
       where kind in ('collector', 'relay') and removed_at is null order by name`,
    )
    .catch(() => ({ rows: [] }));
  return rows;
}

/**
 * What sends and is of another version than this one; one line where none is.
 * @param {readonly { name: string, kind: string, version: string | null }[]} senders
 */
export function oldSenders(senders, version) {
  const old = senders.filter((sender) => sender.version !== version);
  if (senders.length > 0 && old.length === 0)
    return [{ what: "collectors", found: `all ${senders.length} are of version ${version}` }];
  return old.map(({ name, kind, version: its }) => ({
    what: kind,
    found: `${name} ${its === null ? "has told no version" : `is of version ${its}`}; this is ${version}`,
    todo:
      kind === "relay"
        ? "Bring Nubrel there to this version and start it again."
        : "Install it anew: make a new token on its page under Sources and paste the line.",
  }));
}

/** What PostgreSQL is set to, where that is not as safe as it should be; one line where all of it is. */
export function databaseSettings(settings) {
  const wrong = [
    ["fsync", "on", "Without it a power cut can destroy the whole database: alter system set fsync = on; restart it."],
    ["full_page_writes", "on", "Without it a power cut can damage pages: alter system set full_page_writes = on."],
    ["autovacuum", "on", "Without it the database only grows: alter system set autovacuum = on."],
    [
      "data_checksums",
      "on",
      "A disk that forgets goes unnoticed: pg_checksums --enable while PostgreSQL stands still.",
    ],
  ].filter(([name, wanted]) => settings[name] !== undefined && settings[name] !== wanted);
  const few = Number(settings.max_connections) < 20;
  const findings = [
    ...wrong.map(([name, , todo]) => ({ what: "setting", found: `${name} is ${settings[name]}`, todo })),
    ...(few
      ? [
          {
            what: "setting",
            found: `max_connections is ${settings.max_connections}`,
            todo: "Nubrel wants 20 at least: alter system set max_connections = 40; restart PostgreSQL.",
          },
        ]
      : []),
  ];
  return findings.length > 0 ? findings : [{ what: "settings", found: "of PostgreSQL are safe" }];
}

export function clocksApart(apartMs) {
  if (Math.abs(apartMs) < mostApartMs) return [];
  return [
    {
      what: "clock",
      found: `the database's machine is ${(Math.abs(apartMs) / 1000).toFixed(1)} s ${apartMs > 0 ? "ahead" : "behind"}`,
      todo: "Have both kept by NTP: samples stand where the clock says.",
    },
  ];
}

function certificates(env, folder, nowMs) {
  const files = [
    env.NUBREL_CERT,
    join(ownFolder(folder), "house/server.crt"),
    join(ownFolder(folder), "house/authority.crt"),
  ];
  return files.flatMap((file) => (file && existsSync(file) ? [certificate(file, readFileSync(file), nowMs)] : []));
}

export function certificate(file, pem, nowMs) {
  try {
    const { validTo } = new X509Certificate(pem);
    const days = Math.floor((Date.parse(validTo) - nowMs) / dayMs);
    return {
      what: "certificate",
      found: `${file} ${days < 0 ? `ended ${-days} days ago` : `ends in ${days} days`}`,
      ...(days < certificateDays && { todo: "Renew it; one of the house's own is renewed when Nubrel runs." }),
    };
  } catch {
    return { what: "certificate", found: `${file} cannot be read`, todo: "Put a certificate there, as PEM." };
  }
}

function backups(env, nowMs) {
  const settings = backupSettings(env);
  if (!settings) return [{ what: "backups", found: "none are taken by the clock; NUBREL_BACKUP_TO names a folder" }];
  return [backupsStand(settings.folder, backupsIn(settings.folder)[0]?.atMs, nowMs)];
}

export function backupsStand(folder, newestMs, nowMs) {
  const days = newestMs === undefined ? undefined : (nowMs - newestMs) / dayMs;
  return {
    what: "backups",
    found: days === undefined ? `there is none in ${folder}` : `the newest in ${folder} is ${days.toFixed(1)} days old`,
    ...((days === undefined || days > oldestBackupDays) && {
      todo: "Look at Sources, Its condition, for why none came; take one now: nubrel backup FILE.",
    }),
  };
}

/** A line for each, what to do beneath it. */
export function findingWords(findings) {
  const width = Math.max(...findings.map(({ what }) => what.length)) + 2;
  return findings
    .map(
      ({ what, found, todo }) =>
        `${todo ? "!" : " "} ${what.padEnd(width)}${found}${todo ? `\n  ${" ".repeat(width)}${todo}` : ""}`,
    )
    .join("\n");
}

const gigabytes = (bytes) => `${(bytes / 1e9).toFixed(1)} GB`;
