import type { RunningServer, ServerOptions } from "./running-server.ts";
import pino, { type Level, type Logger } from "pino";
import { type Config, readConfig } from "./config.ts";
import { exitCodeOf, foreseen, sentenceFor } from "./foreseen.ts";
import { LogBook } from "./log-book.ts";
import { Parent } from "./parent.ts";
import { stayUp } from "./stay-up.ts";
import { startServer } from "./compose.ts";

const mostTold = 3;

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
    const lost = (error: Error) => {
      process.stderr.write(`${error.message}\n`);
      process.exit(foreseen);
    };
    const server = await startServer(config, { log, book, lost, parent, ...prepare(config) });
    say("", `  Nubrel is at ${server.address}`);
    if (server.reachedAt.length > 0)
      say(`  Other machines reach it at ${server.reachedAt.slice(0, mostTold).join(", ")}`);
    if (server.setupCode) say(`  Set-up code: ${server.setupCode}  (for making the owner's account, once)`);
    for (const line of server.unseen) say(`  ${line}`);
    for (const line of announce(server)) say(`  ${line}`);
    say("  Ctrl+C stops it.", "");
    const end = await started(server, log);
    process.send?.({ kind: "ready", address: server.address, setupCode: server.setupCode });
    let stopping = false;
    const stop = () => {
      if (stopping) return;
      stopping = true;
      void Promise.resolve(end?.())
        .then(() => server.close())
        .then(
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
    process.exit(exitCodeOf(error));
  }
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
