// `npm start` and `npm run demo`: installs what is missing, starts PostgreSQL and the server, stops both on Ctrl+C.
import { fork } from "node:child_process";
import { randomBytes } from "node:crypto";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { ensureBuilt } from "./build.mjs";
import { startCluster } from "./cluster.mjs";
import { dataFolder, occupy, openDataFolder } from "./data-folder.mjs";
import { ensurePostgres } from "./debian-packages.mjs";
import { ensureNodePackages } from "./node-packages.mjs";
import { runMain } from "./told.mjs";

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const demo = process.argv.includes("--demo");

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

  const folder = dataFolder(process.env, { demo });
  openDataFolder(folder);
  const occupied = occupy(folder);
  let cluster;
  try {
    await ensureNodePackages(root);
    const external = process.env.NUBREL_DATABASE_URL;
    if (!external) await ensurePostgres();
    await ensureBuilt(root);
    if (!external && !wantsStop) cluster = await startCluster(folder);
    if (wantsStop) return 0;
    // With it bin/nubrel speaks to the running server; who may read running.json may read the database as well.
    const token = randomBytes(24).toString("base64url");
    server = fork(join(root, demo ? "dist/server/demo.js" : "dist/server/start.js"), [], { env: { ...process.env, NUBREL_DATABASE_URL: external || cluster.url, NUBREL_COMMAND_TOKEN: token, NUBREL_DATA_FOLDER: external ? "" : folder, NUBREL_KEY_FILE: join(folder, "secrets.key") } });
    server.on("message", (message) => message.kind === "ready" && occupied.serves(message.address, token));
    return await new Promise((resolve) => server.once("exit", (code, signal) => resolve(wantsStop && signal ? 0 : (code ?? 1))));
  } finally {
    await cluster?.stop();
    occupied.leave();
  }
});
