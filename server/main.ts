import pino, { type Level, type Logger } from "pino";
import { type Config, ConfigError, readConfig } from "./config.ts";
import { TakenError } from "./db/claim.ts";
import { NewerDataError } from "./db/migrate.ts";
import { LogBook } from "./log-book.ts";
import { stayUp } from "./stay-up.ts";
import { type RunningServer, type ServerOptions, startServer } from "./server.ts";

/** Starts the server for a person at a terminal (or the start command): prints where it is, ends on SIGINT and SIGTERM, turns foreseeable failures into sentences. */
export async function runServer(prepare: (config: Config) => Partial<ServerOptions> = () => ({}), announce: (server: RunningServer) => string[] = () => [], started: (server: RunningServer, log: Logger) => Promise<(() => unknown) | undefined> = async () => undefined): Promise<void> {
  const level = process.env["NUBREL_LOG"] ?? "warn";
  const book = new LogBook();
  const log = pino({ name: "nubrel", level }, pino.multistream([{ level: level as Level, stream: pino.destination({ dest: 2, sync: true }) }, { level: "warn", stream: book }]));
  stayUp(log);
  let config: Config | undefined;
  try {
    config = readConfig(process.env);
    const lost = (error: Error) => {
      process.stderr.write(`${error.message}\n`);
      process.exit(foreseen);
    };
    const server = await startServer(config, { log, book, lost, ...prepare(config) });
    say("", `  Nubrel is at ${server.address}`);
    if (server.setupCode) say(`  Set-up code: ${server.setupCode}  (for making the owner's account, once)`);
    for (const line of announce(server)) say(`  ${line}`);
    say("  Ctrl+C stops it.", "");
    const end = await started(server, log);
    process.send?.({ kind: "ready", address: server.address, setupCode: server.setupCode });
    let stopping = false;
    const stop = () => {
      if (stopping) return;
      stopping = true;
      void Promise.resolve(end?.()).then(() => server.close()).then(
        () => process.exit(0),
        (error) => {
          log.error({ err: error }, "stopping failed");
          process.exit(1);
        },
      );
    };
    process.on("SIGINT", stop);
    process.on("SIGTERM", stop);
    process.on("disconnect", stop);
  } catch (error) {
    process.stderr.write(`${sentenceFor(error, config)}\n`);
    process.exit(isForeseen(error) ? foreseen : 1);
  }
}

/** Exit code of a failure that starting again does not mend. */
const foreseen = 2;
const isForeseen = (error: unknown): boolean => error instanceof ConfigError || error instanceof NewerDataError || error instanceof TakenError || ["EADDRINUSE", "EACCES", "EADDRNOTAVAIL", "ENOTFOUND", "28P01", "28000", "3D000", "42501"].includes((error as { code?: string }).code ?? "");

function say(...lines: string[]): void {
  process.stdout.write(`${lines.join("\n")}\n`);
}

/** What a person can do about a failure to start. Unforeseen ones come with their inside. */
export function sentenceFor(error: unknown, config: Pick<Config, "host" | "port"> | undefined): string {
  const { code, message } = error as { code?: string; message?: string };
  if (error instanceof ConfigError || error instanceof NewerDataError || error instanceof TakenError) return message as string;
  switch (code) {
    case "EADDRINUSE":
      return `Port ${config?.port} on ${config?.host} is taken by another program. Stop that one, or choose another port: NUBREL_PORT=7374 npm start`;
    case "EACCES":
      return `Port ${config?.port} may not be used by this account. Choose one above 1023: NUBREL_PORT=7373 npm start`;
    case "EADDRNOTAVAIL":
    case "ENOTFOUND":
      return config ? `This machine has no address ${config.host}. Set NUBREL_HOST to 127.0.0.1 or an address of this machine.` : String(message);
    case "ECONNREFUSED":
    case "ETIMEDOUT":
      return `The database does not answer (${message}). Look whether PostgreSQL runs there and whether NUBREL_DATABASE_URL is right.`;
    case "28P01":
    case "28000":
      return `The database refuses the name or password in NUBREL_DATABASE_URL (${message}).`;
    case "3D000":
      return `The database named in NUBREL_DATABASE_URL does not exist (${message}). Make it with createdb, or name another.`;
    case "42501":
      return `The account in NUBREL_DATABASE_URL may not make tables (${message}). Grant it "create" on the database and its schema.`;
    case "53100":
    case "ENOSPC":
      return `The disk is full (${message}). Make room and start again; what was stored is safe.`;
    default:
      return `Nubrel could not start: ${error instanceof Error ? error.stack : String(error)}`;
  }
}
