import { type Config, ConfigError } from "./config.ts";
import { TakenError } from "./db/claim.ts";
import { NewerDataError } from "./db/migrate.ts";

/** Exit code of a failure that starting again does not mend. */
export const foreseen = 2;

const mendedByAPerson = new Set([
  "EADDRINUSE",
  "EACCES",
  "EADDRNOTAVAIL",
  "ENOTFOUND",
  "28P01",
  "28000",
  "3D000",
  "42501",
]);

export function exitCodeOf(error: unknown): number {
  const isForeseen =
    error instanceof ConfigError ||
    error instanceof NewerDataError ||
    error instanceof TakenError ||
    mendedByAPerson.has((error as { code?: string }).code ?? "");
  return isForeseen ? foreseen : 1;
}

/** What a person can do about a failure to start. Unforeseen ones come with their inside. */
export function sentenceFor(error: unknown, config: Pick<Config, "host" | "port"> | undefined): string {
  const { code, message } = error as { code?: string; message?: string };
  if (error instanceof ConfigError || error instanceof NewerDataError || error instanceof TakenError)
    return message as string;
  switch (code) {
    case "EADDRINUSE":
      return `Port ${config?.port} on ${config?.host} is taken by another program. Stop that one, or choose another port: NUBREL_PORT=7374 npm start`;
    case "EACCES":
      return `Port ${config?.port} may not be used by this account. Choose one above 1023: NUBREL_PORT=7373 npm start`;
    case "EADDRNOTAVAIL":
    case "ENOTFOUND":
      return config
        ? `This machine has no address ${config.host}. Set NUBREL_HOST to 127.0.0.1 or an address of this machine.`
        : String(message);
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
