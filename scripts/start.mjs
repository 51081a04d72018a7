// `npm start` and `npm run demo`: installs what is missing, starts PostgreSQL and the server, keeps both running, stops
// both on Ctrl+C.
import { randomBytes } from "node:crypto";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { backupSettings, keepBackups, mayMakeDatabases, takeBackup } from "./backups.mjs";
import { beforeUpgrade } from "./before-upgrade.mjs";
import { ensureBuilt } from "./build.mjs";
import { startCluster } from "./cluster.mjs";
import { dataFolder, occupy, openDataFolder, ownFolder } from "./data-folder.mjs";
import { ensureRoles } from "./database-roles.mjs";
import { ensurePostgres, findPostgresClient } from "./debian-packages.mjs";
import { keepCluster } from "./keep-cluster.mjs";
import { keepServer } from "./keep-server.mjs";
import { ensureNodePackages } from "./node-packages.mjs";
import { runForServer } from "./root-tools.mjs";
import { runCommand } from "./run-command.mjs";
import { writableAddress } from "./writable-address.mjs";
import { giveTo, serverAccount } from "./server-account.mjs";
import { runMain, say, Told } from "./told.mjs";

/** Where systemd waits for it (Type=notify), it is told by its own program: Node.js has no datagram sockets of Unix. */
async function tellSystemd(address) {
  if (process.env.NOTIFY_SOCKET) await runCommand("systemd-notify", ["--ready", `--status=Serving at ${address}`]);
}

/** How the database stands to this version; undefined where it cannot be asked: the server says why. */
async function standingOf(root, env) {
  const { code, output } = await runCommand(process.execPath, [join(root, "dist/server/migrate.js"), "--look"], {
    env,
  });
  const [told] = /^\{.*\}$/m.exec(output) ?? [];
  return code === 0 && told ? JSON.parse(told) : undefined;
}

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const demo = process.argv.includes("--demo");

// biome-ignore lint/complexity/noExcessiveLinesPerFunction: one way from start to end, told in order
await runMain(async () => {
  // The terminal sends Ctrl+C to the server as well; this process stays until it has stopped.
  let wantsStop = false;
  let server;
  const stop = (signal) => {
    wantsStop = true;
    server?.kill(signal);
  };
  process.on("SIGINT", () => stop("SIGINT"));
  process.on("SIGTERM", () => stop("SIGTERM"));
  process.on("SIGHUP", () => stop("SIGTERM"));

  const backups = demo ? undefined : backupSettings(process.env);
  const folder = dataFolder(process.env, { demo });
  openDataFolder(folder);
  const occupied = occupy(folder);
  let cluster;
  let endWatch;
  let endBackups;
  try {
    await ensureNodePackages(root);
    const external = process.env.NUBREL_DATABASE_URL;
    if (!external) await ensurePostgres();
    await ensureBuilt(root);
    if (!external && !wantsStop) cluster = await startCluster(folder);
    if (wantsStop) return 0;
    const script = join(root, demo ? "dist/server/demo.js" : "dist/server/start.js");
    const account = await serverAccount(script);
    if (account.problem) say(account.problem);
    giveTo(account.ids, ownFolder(folder));
    const roles = cluster && (await ensureRoles(cluster.url, folder));
    const migrating = {
      ...process.env,
      NUBREL_DATABASE_URL: external ? await writableAddress(external) : roles.ownerUrl,
      NUBREL_APP_ROLE: "nubrel_app",
    };
    const standing = await standingOf(root, migrating);
    if (standing && !demo)
      await beforeUpgrade(standing, {
        folder,
        url: migrating.NUBREL_DATABASE_URL,
        bin: findPostgresClient(cluster?.major),
        env: process.env,
      });
    if (roles) {
      const { code, output } = await runCommand(process.execPath, [join(root, "dist/server/migrate.js")], {
        env: migrating,
      });
      if (code !== 0) {
        process.stderr.write(output);
        return code;
      }
    }
    /** What the server is told of its database, again when it was started anew. */
    let news;
    if (cluster) {
      endWatch = keepCluster(cluster, (told) => {
        news = { kind: "database", ...told };
        say(
          told.said === null
            ? "PostgreSQL had ended and runs again."
            : `PostgreSQL does not come up (try ${told.tries}). It says:\n\n${told.said}\n`,
        );
        if (server?.connected) server.send(news);
      });
    }
    let backupNews;
    if (backups) {
      // Of a database that is not ours it is asked when one is taken: it may be away now.
      let checked = cluster ? true : null;
      const bin = findPostgresClient(cluster?.major);
      if (!bin)
        throw new Told("Backups are wanted (NUBREL_BACKUP_TO), and PostgreSQL's programs are not installed here.");
      endBackups = keepBackups(
        backups,
        async (file) => {
          const from = external ? await writableAddress(external) : roles.ownerUrl;
          if (!cluster) checked = await mayMakeDatabases(from);
          await takeBackup(file, { folder, url: from, bin, check: checked ? (cluster?.url ?? from) : undefined });
        },
        (told) => {
          backupNews = { kind: "backups", ...told, checked };
          if (server?.connected) server.send(backupNews);
          if (told.problem !== null) say(`The backup failed: ${told.problem}`);
        },
      );
    }
    // With it bin/nubrel speaks to the running server; who may read running.json may read the database as well.
    const token = randomBytes(24).toString("base64url");
    const own = ownFolder(folder);
    return await keepServer({
      command: [...account.before, process.execPath, script],
      env: {
        ...process.env,
        NUBREL_DATABASE_URL: external || roles.appUrl,
        NUBREL_COMMAND_TOKEN: token,
        NUBREL_DATA_FOLDER: external ? "" : folder,
        NUBREL_KEY_FILE: join(own, "secrets.key"),
        NUBREL_SPOOL: join(own, "spool"),
        NUBREL_ROOT_TOOLS: account.ids ? "parent" : "",
        ...(account.problem && { NUBREL_RUNS_AS_ROOT: account.problem }),
      },
      wantsStop: () => wantsStop,
      started: (next) => {
        server = next;
        next.on("message", async (message) => {
          if (message.kind === "ready") {
            await tellSystemd(message.address);
            occupied.serves(message.address, token);
            for (const one of [news, backupNews]) if (one) next.send(one);
          }
          if (message.kind === "run" && account.ids) {
            const answer = await runForServer(message.program, message.args);
            if (next.connected) next.send({ kind: "ran", id: message.id, answer });
          }
        });
      },
    });
  } finally {
    await endBackups?.();
    await endWatch?.();
    await cluster?.stop();
    occupied.leave();
  }
});
