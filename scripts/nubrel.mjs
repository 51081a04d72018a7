// `bin/nubrel`: start, demo, export, import, backup, restore, token, relay, doctor, profile, remove. Plain Node.js, as it must run
// before anything is installed.
import { spawn } from "node:child_process";
import { createReadStream, existsSync, rmSync, writeFileSync } from "node:fs";
import { basename, dirname, join, resolve } from "node:path";
import { Readable } from "node:stream";
import { createInterface } from "node:readline/promises";
import { fileURLToPath } from "node:url";
import { parseArgs } from "node:util";
import { request as httpRequest } from "node:http";
import { request as httpsRequest } from "node:https";
import { commands, helpOf, helpWords, optionWords } from "./command-words.mjs";
import { readBackup } from "./backup-file.mjs";
import { takeBackup, withPasswordFile } from "./backups.mjs";
import { ensureBuilt } from "./build.mjs";
import { startCluster } from "./cluster.mjs";
import { dataFolder, occupy, openDataFolder, ownerOf, ownFolder, runningIn } from "./data-folder.mjs";
import { changePasswords } from "./database-passwords.mjs";
import { findingWords, lookAround } from "./doctor.mjs";
import { ensureRoles } from "./database-roles.mjs";
import { ensurePostgres, findPostgres, findPostgresClient } from "./debian-packages.mjs";
import { ensureNodePackages } from "./node-packages.mjs";
import { writableAddress } from "./writable-address.mjs";
import { relaySettings } from "./relay.mjs";
import { giveTo } from "./server-account.mjs";
import { runMain, Told, WronglyAsked } from "./told.mjs";

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const secondsOfUnit = { s: 1, m: 60, h: 3600, d: 86_400 };
const allHelp = () => helpWords(dataFolder(process.env));
const options = Object.fromEntries(
  Object.entries(optionWords).map(([name, { takes }]) => [name, { type: takes === "" ? "boolean" : "string" }]),
);

await runMain(async () => {
  const { values, positionals } = parsed();
  const [command, file, ...more] = positionals;
  if (command === undefined || command === "help" || values.help) return help(command === "help" ? file : command);
  if (command === "event") return await tellEvent(values, positionals.slice(1).join(" "));
  if (command === "record") return await beginRecording(values, positionals.slice(1).join(" "));
  if (command === "person") return await resetPerson(values.demo ?? false, positionals.slice(1));
  if (more.length > 0) throw new WronglyAsked(`${command} takes one file at most, not ${more.length + 1}.`);
  const demo = values.demo ?? false;
  switch (command) {
    case "start":
    case "demo":
      return await run(process.execPath, [join(root, "scripts/start.mjs"), ...(command === "demo" ? ["--demo"] : [])]);
    case "export":
      return await withDatabase(demo, ({ appUrl }) =>
        overDatabase(appUrl, { command, file: file && resolve(file), ...transferOf(values) }),
      );
    case "import":
      return await importFile(demo, file && resolve(file), transferOf(values));
    case "backup": {
      const written = needed(file, command);
      return await withDatabase(demo, ({ ownerUrl }, bin) => backup(demo, ownerUrl, bin, written));
    }
    case "token":
      return await withDatabase(demo, ({ appUrl }) =>
        overDatabase(appUrl, { command, scope: values.scope ?? "read", name: values.name ?? "made in the shell" }),
      );
    case "new-keys":
      return await newKeys(demo);
    case "relay":
      return await relay(file, values);
    case "doctor":
      return await examine(demo);
    case "profile":
      return await takeProfile(demo, file ?? "30");
    case "health":
      return await tellHealth(demo);
    case "restore":
      return await restore(demo, needed(file, command));
    case "remove":
      return await remove(demo, values.yes ?? false);
    default:
      throw new WronglyAsked(`There is no command "${command}".\n\n${allHelp()}`);
  }
});

/** Gathers here for a server elsewhere, until Ctrl+C. */
async function relay(address, said) {
  const settings = relaySettings(join(dataFolder(process.env), "relay"), address, said);
  await ensureNodePackages(root);
  await ensureBuilt(root);
  say(`  Gathering here for ${settings.to}. Ctrl+C stops it.`);
  return await run(process.execPath, [join(root, "dist/server/relay.js")], { NUBREL_RELAY: JSON.stringify(settings) });
}

/** Whether the server that runs with the data works; what watches a container asks for no more. */
async function tellHealth(demo) {
  const { status, answer } = await sendToServer({ address: runningServer(demo).address }, "/api/health");
  if (status !== 200)
    throw new Told(`Nubrel does not work as it should: the database is ${answer.database ?? "not known"}.`);
  return say("Nubrel works.");
}

/** What the server's processor does, sampled for a while, as a file for developer tools. */
async function takeProfile(demo, said) {
  const seconds = Number(said);
  if (!/^\d{1,3}$/.test(said) || seconds < 1 || seconds > 300)
    throw new WronglyAsked(`"${said}" is no number of seconds from 1 to 300: nubrel profile 30`);
  const running = runningServer(demo);
  process.stderr.write(`The server is looked at for ${seconds} s ...\n`);
  const { status, answer } = await sendToServer(running, `/api/profile?seconds=${seconds}`, Readable.from([]));
  if (status !== 200) throw new Told(answer.detail ?? `The server answered ${status}.`);
  const name = `nubrel-${new Date().toISOString().slice(0, 19).replaceAll(":", "")}.cpuprofile`;
  writeFileSync(name, JSON.stringify(answer), { mode: 0o600 });
  return say(`${name} is written: developer tools of browsers and editors open it.`);
}

/** What stands around the data, then every block of it. */
async function examine(demo) {
  const folder = dataFolder(process.env, { demo });
  const running = process.env.NUBREL_DATABASE_URL ? undefined : runningIn(folder);
  return await withDatabase(demo, async ({ appUrl }) => {
    const { default: pg } = await import("pg");
    const client = new pg.Client({ connectionString: appUrl });
    await client.connect();
    const findings = await lookAround({ env: process.env, folder, running, client }).finally(() => client.end());
    say(`${findingWords(findings)}\n`);
    const code = await overDatabase(appUrl, { command: "doctor" });
    return code || (findings.some(({ todo }) => todo) ? 1 : 0);
  });
}

/** A new key for sealed secrets; of a database that is Nubrel's own, new passwords for its roles. */
async function newKeys(demo) {
  const folder = dataFolder(process.env, { demo });
  const external = process.env.NUBREL_DATABASE_URL;
  if (!external && runningIn(folder)) throw new Told("Nubrel runs with this data. Stop it first.");
  return await withDatabase(demo, async ({ appUrl }, _bin, cluster) => {
    const keyFile = process.env.NUBREL_KEY_FILE || join(ownFolder(folder), "secrets.key");
    if (!existsSync(keyFile)) say("Nothing is sealed yet.");
    else {
      const code = await overDatabase(appUrl, { command: "key" }, { NUBREL_KEY_FILE: keyFile });
      if (code !== 0) return code;
    }
    if (cluster) {
      await changePasswords(folder, cluster.url);
      say("The three roles of the database have new passwords.");
    }
    return say("Backups of before hold the key of before: take one now, and keep the others no longer than you need.");
  });
}

/** Whoever has a shell here has the data anyway: no question that somebody else could answer stands before it. */
async function resetPerson(demo, [what, ...name]) {
  if (what !== "reset" || name.length === 0)
    throw new WronglyAsked("nubrel person wants to know whom: nubrel person reset NAME");
  return await withDatabase(demo, ({ appUrl }) => overDatabase(appUrl, { command: "person", name: name.join(" ") }));
}

/** What was asked; an option that the command does not take is told. */
function parsed() {
  let asked;
  try {
    asked = parseArgs({ options: { ...options, help: { type: "boolean" } }, allowPositionals: true });
  } catch (error) {
    throw new WronglyAsked(`${error.message}\n\n${allHelp()}`);
  }
  const command = commands.find(({ name }) => name === asked.positionals[0]);
  const foreign = Object.keys(asked.values).find((name) => name !== "help" && !command?.options.includes(name));
  if (command && foreign)
    throw new WronglyAsked(`nubrel ${command.name} takes no --${foreign}.\n\n${helpOf(command.name)}`);
  return asked;
}

function help(name) {
  if (name === undefined) return say(allHelp());
  const words = helpOf(name);
  if (words === undefined) throw new WronglyAsked(`There is no command "${name}".\n\n${allHelp()}`);
  return say(words);
}

function transferOf({ format = "openmetrics", from, to, counter = "*", machine = "*" }) {
  return { format, from, to, counter, machine };
}

function needed(file, command) {
  if (!file) throw new WronglyAsked(`nubrel ${command} wants a file: nubrel ${command} nubrel.backup`);
  return resolve(file);
}

function say(text) {
  process.stdout.write(`${text}\n`);
  return 0;
}

/**
 * Runs `work` over the database: the one that is named, or the data folder's own, started for the time where it does
 * not run. `work` gets the addresses of the role that
 * owns the tables and of the one that reads and writes their rows, and the folder of PostgreSQL's programs.
 */
async function withDatabase(demo, work, { fresh = false } = {}) {
  await ensureNodePackages(root);
  if (process.env.NUBREL_DATABASE_URL) {
    const url = await writableAddress(process.env.NUBREL_DATABASE_URL);
    return await work({ ownerUrl: url, appUrl: url }, findPostgresClient());
  }
  await ensurePostgres();
  await ensureBuilt(root);
  const folder = dataFolder(process.env, { demo });
  if (!fresh && !existsSync(join(folder, "postgres")))
    throw new Told(`There is no data of Nubrel in ${folder}. Name another folder with NUBREL_DATA.`);
  openDataFolder(folder);
  if (runningIn(folder)) {
    const cluster = await startCluster(folder); // runs already: only its address is taken
    return await work(await ensureRoles(cluster.url, folder), findPostgres(cluster.major));
  }
  const occupied = occupy(folder);
  let cluster;
  try {
    cluster = await startCluster(folder);
    const roles = await ensureRoles(cluster.url, folder);
    if (!fresh && (await migrateDatabase(roles)) !== 0)
      throw new Told("The database could not be brought to this version; what it said stands above.");
    return await work(roles, findPostgres(cluster.major), cluster);
  } finally {
    await cluster?.stop();
    occupied.leave();
    giveTo(ownerOf(folder), folder);
  }
}

function migrateDatabase({ ownerUrl }) {
  return run(process.execPath, [join(root, "dist/server/migrate.js")], {
    NUBREL_DATABASE_URL: ownerUrl,
    NUBREL_APP_ROLE: "nubrel_app",
  });
}

async function overDatabase(url, wish, env = {}) {
  await ensureBuilt(root);
  return await run(process.execPath, [join(root, "dist/server/command.js"), JSON.stringify(wish)], {
    ...env,
    NUBREL_DATABASE_URL: url,
  });
}

/** A server that runs takes the samples itself, for it holds the newest in memory. */
async function importFile(demo, file, transfer) {
  if (file && !existsSync(file)) throw new Told(`There is no file ${file}.`);
  const running = runningIn(dataFolder(process.env, { demo }));
  if (!running?.address)
    return await withDatabase(demo, ({ appUrl }) => overDatabase(appUrl, { command: "import", file, ...transfer }));
  const { status, answer } = await sendToServer(
    running,
    `/api/import?format=${encodeURIComponent(transfer.format)}`,
    file ? createReadStream(file) : process.stdin,
  );
  if (status !== 200) throw new Told(answer.detail ?? `The server answered ${status}.`);
  return say(
    [
      `imported ${answer.taken.toLocaleString("en")} samples`,
      ...Object.entries(answer.refused).map(([reason, count]) => `${count.toLocaleString("en")} refused: ${reason}`),
    ].join("; "),
  );
}

/** What a script knows of: a backup that ran, a work that begins. Only a server that runs takes it. */
async function tellEvent({ demo = false, machine, kind, from, to }, text) {
  if (text.trim() === "")
    throw new WronglyAsked('nubrel event wants what happened: nubrel event "backup ran" --kind backup --machine vault');
  const moment = (name, said) => {
    const ms = said === undefined ? undefined : new Date(said).getTime();
    if (Number.isNaN(ms))
      throw new WronglyAsked(`--${name} "${said}" is no moment. Write it as 2026-11-23T02:10 or 2026-11-23T02:10:00Z.`);
    return ms;
  };
  const event = { text, machine, kind: kind ?? "note", fromMs: moment("from", from), toMs: moment("to", to) };
  const { status, answer } = await sendToServer(
    runningServer(demo),
    "/api/events",
    Readable.from([JSON.stringify(event)]),
    "application/json",
  );
  if (status !== 201) throw new Told(answer.detail ?? `The server answered ${status}.`);
  return say(
    `noted: ${answer.text}${answer.machine ? ` (${answer.machine})` : ""}, ${new Date(answer.fromMs).toISOString()}${answer.toMs > answer.fromMs ? ` to ${new Date(answer.toMs).toISOString()}` : ""}`,
  );
}

/** The server that runs with the data folder. Throws Told where none does. */
function runningServer(demo) {
  const folder = dataFolder(process.env, { demo });
  const running = runningIn(folder);
  if (!running?.address)
    throw new Told(`Nubrel does not run with ${folder}. Start it first, or name its folder with NUBREL_DATA.`);
  return running;
}

async function beginRecording({ demo = false, for: length, anyway = false }, name) {
  if (name.trim() === "")
    throw new WronglyAsked("nubrel record wants a recording's name or number: nubrel record morning --for 4m");
  const said = /^(\d{1,7})([smhd])$/.exec(length ?? "");
  if (length !== undefined && !said)
    throw new WronglyAsked(`--for ${length} is no length. Write it as 90s, 4m, 2h or 1d.`);
  const forSeconds = said ? Number(said[1]) * secondsOfUnit[said[2]] : undefined;
  const { status, answer } = await sendToServer(
    runningServer(demo),
    `/api/recordings/${encodeURIComponent(name)}/runs`,
    Readable.from([JSON.stringify({ forSeconds, anyway })]),
    "application/json",
  );
  if (status !== 201) throw new Told(answer.detail ?? `The server answered ${status}.`);
  return say(
    `recording ${answer.name} every ${answer.everySeconds} s${answer.untilMs === null ? "" : `, until ${new Date(answer.untilMs).toISOString()}`}: run ${answer.id}`,
  );
}

/**
 * The server is this machine's own, and who may read its address from running.json may read its key as well: its
 * certificate is not checked.
 */
function sendToServer({ address, token }, path, body = undefined, type = "text/plain") {
  const url = new URL(address + path);
  if (url.hostname === "0.0.0.0" || url.hostname === "[::]") url.hostname = "localhost";
  const request = url.protocol === "https:" ? httpsRequest : httpRequest;
  return new Promise((done, failed) => {
    const sent = request(
      url,
      {
        method: body ? "POST" : "GET",
        rejectUnauthorized: false,
        headers: { ...(token && { Authorization: `Bearer ${token}` }), "Content-Type": type },
      },
      async (response) => {
        let text = "";
        for await (const piece of response) text += piece;
        done({ status: response.statusCode, answer: JSON.parse(text) });
      },
    );
    sent.once("error", failed);
    if (!body) return void sent.end();
    body.once("error", failed);
    body.pipe(sent);
  });
}

async function backup(demo, url, bin, file) {
  await takeBackup(file, { folder: dataFolder(process.env, { demo }), url, bin });
  await overDatabase(url, { command: "note", did: "GET /backup", subject: basename(file) });
  return say(
    `Everything is in ${file}. It holds password hashes and the keys of sealed secrets: keep it as you keep the data itself.`,
  );
}

/** Into a database that holds nothing of Nubrel's yet, in one transaction: it is there whole or not at all. */
async function restore(demo, file) {
  if (!existsSync(file)) throw new Told(`There is no file ${file}.`);
  const folder = dataFolder(process.env, { demo });
  if (!process.env.NUBREL_DATABASE_URL && runningIn(folder))
    throw new Told("Nubrel runs with this data. Stop it first.");
  return await withDatabase(
    demo,
    async ({ ownerUrl: url }, bin) => {
      const { default: pg } = await import("pg");
      const client = new pg.Client({ connectionString: url });
      await client.connect();
      const { rows } = await client.query("select to_regclass('migration') as there");
      await client.end();
      if (rows[0].there)
        throw new Told(
          `${process.env.NUBREL_DATABASE_URL ? "This database" : folder} holds data of Nubrel already. Name another folder with NUBREL_DATA, or take that away first: bin/nubrel remove`,
        );
      const code = await withPasswordFile(url, (bare, env) =>
        readBackup(
          file,
          folder,
          join(bin, "pg_restore"),
          ["--single-transaction", "--exit-on-error", "--no-owner", "--no-privileges", `--dbname=${bare}`],
          env,
        ),
      );
      if (code !== 0)
        throw new Told(
          `${file} could not be restored; nothing of it was kept. Is it a backup that nubrel backup wrote?`,
        );
      return say("Restored. npm start goes on from there.");
    },
    { fresh: true },
  );
}

async function remove(demo, yes) {
  const folder = dataFolder(process.env, { demo });
  const external = process.env.NUBREL_DATABASE_URL;
  if (!external && !existsSync(join(folder, "nubrel.json"))) throw new Told(`There is no data of Nubrel in ${folder}.`);
  if (!external && runningIn(folder)) throw new Told("Nubrel runs with this data. Stop it first.");
  const what = external
    ? "all tables of Nubrel in the database of NUBREL_DATABASE_URL"
    : `${folder} with all samples, rules and accounts in it`;
  if (!yes) {
    const terminal = createInterface({ input: process.stdin, output: process.stdout });
    const answer = await terminal.question(`This takes away ${what}, for good.\nType "remove" to do it: `);
    terminal.close();
    if (answer.trim() !== "remove") return say("Nothing was removed.");
  }
  if (external) await overDatabase(external, { command: "remove" });
  else {
    if (existsSync(join(folder, "postgres/PG_VERSION"))) {
      const cluster = await startCluster(folder).catch(() => undefined);
      await cluster?.stop("fast");
    }
    rmSync(folder, { recursive: true });
  }
  return say(`Removed: ${what}.`);
}

/** Runs a program with this terminal's input and output, and ends it where this one is ended; gives its exit code. */
function run(program, args, env = {}) {
  return new Promise((done, failed) => {
    const child = spawn(program, args, { stdio: "inherit", env: { ...process.env, ...env } });
    const end = () => child.kill("SIGTERM");
    process.on("SIGTERM", end);
    child.once("error", failed);
    child.once("exit", (code) => {
      process.off("SIGTERM", end);
      done(code ?? 1);
    });
  });
}
