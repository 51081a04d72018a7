import { revokeTokensOf } from "./people/token-rows.ts";
import { dropLinks } from "./people/issuer/issuer-rows.ts";
import { newKeys, samplesTaken } from "../core/audit/deed-words.ts";
import { changeKey } from "./keys/change-key.ts";
import { dropPasskeys } from "./people/passkeys/passkey-rows.ts";
import { createReadStream, createWriteStream } from "node:fs";
import { once } from "node:events";
import { type SampleFormat, sampleFormats } from "../core/formats/samples/sample-format.ts";
import { claimDatabase } from "./db/claim.ts";
import { migrate } from "./db/migrate.ts";
import { removeTables } from "./db/own-tables.ts";
import { type Database, findWritable, openDatabase } from "./db/pool.ts";
import { noteByShell } from "./audit/audit-rows.ts";
import { changePasswordHash, findAccount } from "./people/account-rows.ts";
import { dropCodes } from "./people/code-rows.ts";
import { newPassword } from "./people/new-password.ts";
import { hashPassword } from "./people/password.ts";
import { listPersonRows } from "./people/person-rows.ts";
import { closeSessions } from "./people/session-rows.ts";
import { Tokens } from "./people/tokens.ts";
import { examineBlocks } from "./store/examine.ts";
import { listSetAside } from "./store/quarantine-rows.ts";
import { Store } from "./store/store.ts";
import { drained } from "./http/drained.ts";
import { exportSamples } from "./transfer/export-samples.ts";
import type { IntakeLimits } from "../core/sources/intake-limits.ts";
import { readLimits } from "./sources/intake-limit-rows.ts";
import { ImportError, importSamples } from "./transfer/import-samples.ts";

// What `bin/nubrel` does over the database itself: export, import while no server runs, remove from a database that is
// not Nubrel's own.

interface Wish {
  readonly command: "export" | "import" | "token" | "person" | "remove" | "doctor" | "key" | "note";
  readonly format: string;
  readonly file: string | undefined;
  readonly from: string | undefined;
  readonly to: string | undefined;
  readonly counter: string;
  readonly machine: string;
  readonly scope: string;
  readonly name: string;
  /** What was done besides, to be written down. */
  readonly did: string;
  readonly subject: string;
}

const wish = JSON.parse(process.argv[2] as string) as Wish;
const url = process.env["NUBREL_DATABASE_URL"] as string;
const database = openDatabase(url);
try {
  await findWritable(url);
  if (wish.command === "remove") {
    const claim = await claimDatabase(url, () => {});
    await removeTables(database);
    await claim.release();
  } else if (wish.command === "token") await makeToken(database);
  else if (wish.command === "person") await resetPerson(database);
  else if (wish.command === "doctor") await examine(database);
  else if (wish.command === "key") await newKey(database);
  else if (wish.command === "note") await noteByShell(database, wish.did, wish.subject);
  else {
    // Exports only read, also beside a server; what is imported beside one would not be known to it.
    const claim =
      wish.command === "import"
        ? await claimDatabase(url, (error) => process.stderr.write(`${error.message}\n`))
        : undefined;
    await migrate(database);
    await claim?.note();
    const store = await Store.open(database, { mayWrite: () => claim?.held ?? true });
    try {
      await (wish.command === "export" ? runExport(store) : runImport(store, await readLimits(database)));
    } finally {
      await store.close();
      await claim?.release();
    }
  }
} catch (error) {
  process.stderr.write(
    `${error instanceof ImportError ? error.message : error instanceof Error ? error.message : String(error)}\n`,
  );
  process.exitCode = 1;
} finally {
  await database.end();
}

async function runExport(store: Store): Promise<void> {
  const out = wish.file ? createWriteStream(wish.file, { flags: "wx", mode: 0o600 }) : process.stdout;
  let gone: Error | undefined;
  out.on("error", (error) => {
    gone = error;
  });
  const { series, samples } = await exportSamples(
    store,
    {
      format: formatOf(),
      fromMs: momentOf("--from", wish.from, 0),
      toMs: momentOf("--to", wish.to, 8e15),
      counter: wish.counter,
      machine: wish.machine,
    },
    async (text) => {
      if (gone) throw gone;
      if (text !== "" && !out.write(text)) await drained(out);
    },
  );
  if (wish.file) {
    out.end();
    await once(out, "close");
  }
  await noteByShell(database, samplesTaken, `${wish.counter} of ${wish.machine}`);
  process.stderr.write(`exported ${samples.toLocaleString("en")} samples of ${series} series\n`);
}

async function runImport(store: Store, limits: IntakeLimits): Promise<void> {
  const { taken, refused } = await importSamples(
    store,
    formatOf(),
    wish.file ? createReadStream(wish.file) : process.stdin,
    limits,
  );
  await noteByShell(database, "POST /import", "");
  process.stderr.write(`${importWords(taken, refused)}\n`);
}

async function makeToken(of: Database): Promise<void> {
  if (wish.scope !== "read" && wish.scope !== "manage")
    throw new Error(
      `--scope ${wish.scope} is not known; there are read and manage. A token that writes belongs to a source and is made with it.`,
    );
  await migrate(of);
  const { token } = await new Tokens(of).create({
    name: wish.name,
    scope: wish.scope,
    sourceId: null,
    by: "the shell",
  });
  await noteByShell(of, "POST /tokens", wish.name);
  process.stdout.write(`${token}\n`);
}

/** Seals every secret with a new key, while no server runs. */
async function newKey(of: Database): Promise<void> {
  const keyFile = process.env["NUBREL_KEY_FILE"];
  if (!keyFile) throw new Error("NUBREL_KEY_FILE is not set: it names the file with the key of sealed secrets.");
  const claim = await claimDatabase(url, () => {});
  try {
    await migrate(of);
    const { changed, lost } = await changeKey(of, keyFile);
    await noteByShell(of, newKeys, "");
    process.stdout.write(`${changed === 1 ? "1 secret is" : `${changed} secrets are`} sealed with a new key.\n`);
    for (const one of lost)
      process.stdout.write(`The secret of ${one} was sealed with another key and cannot be opened: enter it again.\n`);
  } finally {
    await claim.release();
  }
}

/** Gives a person a new password and ends their sessions. */
async function resetPerson(of: Database): Promise<void> {
  await migrate(of);
  const account = await findAccount(of, wish.name);
  if (!account) throw new Error(`Nobody here is called ${wish.name}. ${await namesInWords(of)}`);
  const password = newPassword();
  await changePasswordHash(of, account.id, await hashPassword(password), { isHanded: true });
  await dropCodes(of, account.id);
  await dropPasskeys(of, account.id);
  await dropLinks(of, account.id);
  await revokeTokensOf(of, account.id);
  await closeSessions(of, account.id, {});
  await noteByShell(of, "PUT /people/:id/password", `${account.id} ${account.name}`);
  process.stdout.write(`${password}\n`);
  process.stderr.write(
    `This is the password of ${account.name} now; every sign-in of theirs has ended, time codes, passkeys, tokens and links to an issuer of theirs are gone. It is for one sign-in: they choose another then.\n`,
  );
}

async function namesInWords(of: Database): Promise<string> {
  const people = await listPersonRows(of);
  return people.length === 0 ? "There is nobody yet." : `There are ${people.map(({ name }) => name).join(", ")}.`;
}

/** Looks at every block that is stored, and tells what was set aside before. Exit code 1 where something is wrong. */
async function examine(of: Database): Promise<void> {
  await migrate(of);
  const say = (text: string) => process.stdout.write(`${text}\n`);
  const { rows, damaged } = await examineBlocks(of, (table, count) =>
    say(`${table}: ${count.toLocaleString("en")} blocks looked at`),
  );
  for (const { table, place, reason } of damaged) say(`  ${table} ${place}: ${reason}`);
  const aside = await listSetAside(of);
  for (const { origin, place, reason, atMs, counter, machine } of aside.rows)
    say(
      `set aside ${new Date(atMs).toISOString()}: ${origin} ${JSON.stringify(place)}${counter ? `, ${counter} of ${machine}` : ""}: ${reason}`,
    );
  say(
    damaged.length === 0
      ? `All ${rows.toLocaleString("en")} blocks can be read.`
      : `${damaged.length} of ${rows.toLocaleString("en")} blocks are damaged. They are set aside when they are read next; the rest goes on.`,
  );
  if (aside.count > 0) say(`${aside.count.toLocaleString("en")} were set aside before.`);
  if (damaged.length + aside.count > 0) process.exitCode = 1;
}

function importWords(taken: number, refused: Readonly<Record<string, number>>): string {
  const reasons = Object.entries(refused).map(([reason, count]) => `${count.toLocaleString("en")} refused: ${reason}`);
  return [`imported ${taken.toLocaleString("en")} samples`, ...reasons].join("; ");
}

function formatOf(): SampleFormat {
  const format = sampleFormats.find((one) => one === wish.format);
  if (!format) throw new Error(`--format ${wish.format} is not known; there are ${sampleFormats.join(", ")}.`);
  return format;
}

function momentOf(name: string, text: string | undefined, usual: number): number {
  if (text === undefined) return usual;
  const ms = Date.parse(text);
  if (Number.isNaN(ms))
    throw new Error(`${name} ${text} is not a time. It looks like 2026-11-23 or 2026-11-23T16:00:00Z.`);
  return ms;
}
