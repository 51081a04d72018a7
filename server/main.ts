import type { RunningServer, ServerOptions, TakenOver } from "./running-server.ts";
import pino, { type Level, type Logger } from "pino";
import { type Config, readConfig } from "./config.ts";
import { exitCodeOf, foreseen, sentenceFor } from "./foreseen.ts";
import { LogBook } from "./log-book.ts";
import { Parent } from "./parent.ts";
import { stayUp } from "./stay-up.ts";
import { startServer } from "./compose.ts";
import { TakenError } from "./db/claim.ts";
import { standBeside } from "./stand-beside.ts";

const mostTold = 3;
/** Exit code of a server whose place another has taken: started again, it stands beside that one. */
const standsBeside = 75;

/**
 * Starts the server for a person at a terminal (or the start command): prints where it is, ends on SIGINT and SIGTERM,
 * turns foreseeable failures into sentences.
 */
export async function runServer(
  prepare: (config: Config) => Partial<ServerOptions> = () => ({}),
  announce: (server: RunningServer) => string[] = () => [],
  started: (server: RunningServer, log: Logger) => Promise<(() => unknown) | undefined> = async () => undefined,
): Promise<void> {
  const level = process.env["NUBREL_LOG"] ?? "warn";
  const book = new LogBook();
  const log = pino(
    { name: "nubrel", level },
    pino.multistream([
      { level: level as Level, stream: pino.destination({ dest: 2, sync: true }) },
      { level: "warn", stream: book },
    ]),
  );
  stayUp(log);
  tellHowItCame(log);
  const parent = new Parent(log);
  let config: Config | undefined;
  try {
    config = readConfig(process.env);
    const { isOneOfSeveral } = config;
    const lost = (error: Error) => {
      process.stderr.write(`${error.message}\n`);
      process.exit(isOneOfSeveral ? standsBeside : foreseen);
    };
    const stop = stopped(log);
    const options = { log, book, lost, parent, ...prepare(config) };
    const server = await leading(config, log, { stop, lost }, (taken) =>
      startServer(config as Config, { ...options, ...(taken && { taken }) }),
    );
    stop.closes(() => server.close());
    say("", `  Nubrel is at ${server.address}`);
    if (server.reachedAt.length > 0)
      say(`  Other machines reach it at ${server.reachedAt.slice(0, mostTold).join(", ")}`);
    if (server.setupCode) say(`  Set-up code: ${server.setupCode}  (for making the owner's account, once)`);
    for (const line of server.unseen) say(`  ${line}`);
    for (const line of announce(server)) say(`  ${line}`);
    say("  Ctrl+C stops it.", "");
    const end = await started(server, log);
    process.send?.({ kind: "ready", address: server.address, setupCode: server.setupCode });
    stop.closes(async () => {
      await end?.();
      await server.close();
    });
  } catch (error) {
    process.stderr.write(`${sentenceFor(error, config)}\n`);
    process.exit(exitCodeOf(error));
  }
}

interface Stop {
  /** What is to be closed from now on when this process is to end. */
  closes(close: () => Promise<unknown>): void;
}

/** Ends this process when it is told to; what is open is closed before. */
function stopped(log: Logger): Stop {
  let close: () => Promise<unknown> = async () => {};
  let stopping = false;
  const stop = () => {
    if (stopping) return;
    stopping = true;
    close().then(
      () => process.exit(0),
      (error) => {
        log.error({ err: error }, "stopping failed");
        process.exit(1);
      },
    );
  };
  for (const told of ["SIGINT", "SIGTERM", "disconnect"]) process.on(told, stop);
  return {
    closes: (next) => {
      close = next;
    },
  };
}

/** Starts the server that leads; where several work on one database and another leads, it stands beside that one until it may. */
async function leading(
  config: Config,
  log: Logger,
  { stop, lost }: { readonly stop: Stop; readonly lost: (error: TakenError) => void },
  start: (taken?: TakenOver) => Promise<RunningServer>,
): Promise<RunningServer> {
  try {
    return await start();
  } catch (error) {
    if (!config.isOneOfSeveral || !(error instanceof TakenError)) throw error;
  }
  const beside = await standBeside(config, log, lost);
  stop.closes(() => beside.close());
  say("", `  Nubrel is at ${beside.address}, beside the server that leads`, "  Ctrl+C stops it.", "");
  process.send?.({ kind: "ready", address: beside.address });
  const claim = await beside.lead;
  const gathered = await beside.handOver();
  await beside.close();
  say("  No server leads: this one does.");
  return await start({ claim, gathered });
}

/** What the start command knows of how this process came to be. */
function tellHowItCame(log: Logger): void {
  const { NUBREL_RESTARTED: why, NUBREL_RUNS_AS_ROOT: asRoot } = process.env;
  if (why) log.warn(`the server had died (${why}) and was started again`);
  if (asRoot) log.warn(asRoot);
}

function say(...lines: string[]): void {
  process.stdout.write(`${lines.join("\n")}\n`);
}
