import type { AddressInfo } from "node:net";
import { setTimeout as delay } from "node:timers/promises";
import type { Logger } from "pino";
import type { Health } from "../core/api/views.ts";
import type { Config } from "./config.ts";
import { isFull } from "./db/database-away.ts";
import { migrate } from "./db/migrate.ts";
import { type Database, openDatabase } from "./db/pool.ts";
import { everyMultiple } from "./gather/schedule.ts";
import { type MachineFiles, machineFiles } from "./gather/this-machine/machine-files.ts";
import { OwnReadings } from "./gather/itself/own-readings.ts";
import { connectOwnEngine } from "./gather/containers/own-engine.ts";
import { MachineTools } from "./gather/this-machine/machine-tools.ts";
import { MachineGatherer } from "./gather/this-machine/machine-gatherer.ts";
import { createApp } from "./http/app.ts";
import { newSetupCode } from "./http/people-router.ts";
import { LiveHub } from "./live/live-hub.ts";
import { hasOwner } from "./people/accounts.ts";
import { RuleChecker } from "./rules/rule-checker.ts";
import { readCosts } from "./store/costs.ts";
import { ProcessorShare } from "./store/processor-share.ts";
import { recentSamples, SampleRate } from "./store/sample-rate.ts";
import { startStoreJobs } from "./store/jobs.ts";
import { SilenceWatch } from "./rules/silence-watch.ts";
import { MachineNames } from "./sources/machine-names.ts";
import { SecretBox } from "./sources/secret-box.ts";
import { Sources } from "./sources/sources.ts";
import { Tokens } from "./people/tokens.ts";
import { Transport } from "./transport/transport.ts";
import { Store } from "./store/store.ts";
import { WorkerPool } from "./store/tasks/worker-pool.ts";
import { writeReadings } from "./sources/write-readings.ts";
import type { SampleInfo } from "./sample-info.ts";
import { version } from "./version.ts";

const checkEveryMs = 5000;
/** Gatherings stand at whole multiples of their interval; rules are checked a little after, when those are stored. */
const checkOffsetMs = 700;
/** How long stopping waits for what was gathered last to be stored. */
const lastWritesMs = 3000;

export interface RunningServer {
  readonly address: string;
  /** The code with which the owner is made; undefined where there is one. */
  readonly setupCode: string | undefined;
  readonly store: Store;
  readonly database: Database;
  readonly sources: Sources;
  readonly names: MachineNames;
  readonly tokens: Tokens;
  readonly live: LiveHub;
  /** The newest sample that was there when it was started. */
  readonly lastSampleBeforeMs: number | undefined;
  /** Stops gathering, makes durable what waits, closes everything. */
  close(): Promise<void>;
}

export interface ServerOptions {
  readonly log: Logger;
  /** In place of the machine the server runs on. */
  readonly files?: MachineFiles;
  /** Runs when the store is open and before gathering starts. */
  /** Of the sample world: who may sign in, told to everybody, and how far its past is written. */
  readonly sample?: SampleInfo;
  readonly before?: (store: Store, database: Database) => Promise<void>;
}

/** Reachable and full is worth telling apart from away: the remedy is another. */
function databaseState(reachable: boolean, failure: Error | undefined): Health["database"] {
  if (failure && isFull(failure)) return "full";
  return reachable && !failure ? "ok" : "away";
}

/** Starts the whole server; what was opened is closed again where a later step fails. */
export async function startServer(config: Config, { log, files: given, before, sample }: ServerOptions): Promise<RunningServer> {
  const files = given ?? machineFiles(config.roots);
  const ownMachine = given === undefined && config.roots.proc === "/proc";
  const opened: (() => unknown)[] = [];
  const closeAll = async () => {
    for (const close of opened.reverse()) await close();
  };
  try {
    const database = openDatabase(config.databaseUrl);
    opened.push(() => database.end());
    await migrate(database);
    const store = await Store.open(database, { executor: new WorkerPool(config.databaseUrl) });
    opened.push(() => store.close());
    const lastSampleBeforeMs = store.health.lastSampleAtMs;
    await before?.(store, database);
    const jobs = await startStoreJobs(database, store, log);
    opened.push(() => jobs.stop());

    const sources = await Sources.open(database, store, SecretBox.open(config.keyFile), log);
    opened.push(() => sources.close());
    const names = await MachineNames.open(database);
    const tokens = new Tokens(database);
    const thisMachine = await sources.thisMachine(config.machineName, config.gatherEveryMs);
    if (ownMachine) await connectOwnEngine(sources, config.machineName, files);

    const transport = await Transport.open(config, log);
    opened.push(() => transport.close());

    const live = new LiveHub();
    opened.push(() => live.close());
    const checker = await RuleChecker.open(database, store, (news) => live.publish(news), names);
    const silence = await SilenceWatch.open(database, sources, (news) => live.publish(news));
    const rate = new SampleRate();
    store.onCommit((batch) => {
      const now = Date.now();
      rate.count(recentSamples(batch, now), now);
      live.publish({ kind: "samples", atMs: now });
    });

    const setupCode = newSetupCode();
    let databaseSince: number | null = null;
    const health = async (): Promise<Health> => {
      const { lastSampleAtMs, waitingSamples, mostWaiting, failure, refused } = store.health;
      const reachable = await database.query("select 1").then(() => true, () => false);
      const state = databaseState(reachable, failure);
      databaseSince = state === "ok" ? null : (databaseSince ?? Date.now());
      return { status: state === "ok" ? "ok" : "degraded", version, database: state, databaseSince, lastSampleAt: lastSampleAtMs ?? null, samplesPerSecond: rate.perSecond(Date.now()), waitingSamples, mostWaiting, refused };
    };
    const processor = new ProcessorShare();
    opened.push(() => processor.stop());
    const costs = () => readCosts(database, store, rate.perSecond(Date.now()), processor, config.dataFolder);
    const check = async () => {
      await checker.check(Date.now());
      await silence.check(Date.now());
    };
    const app = createApp({ database, store, checker, live, log, setupCode, commandToken: config.commandToken, sources, names, tokens, transport, sample, health, costs, checkSoon: () => void check().catch((error) => log.error({ err: error }, "checking rules failed")) });
    const server = transport.server(app);
    await new Promise<void>((resolve, reject) => {
      server.once("error", reject);
      server.listen(config.port, config.host, resolve);
    });
    opened.push(() => new Promise<void>((resolve) => {
      server.close(() => resolve());
      server.closeAllConnections();
    }));

    const gatherer = new MachineGatherer(files, ownMachine ? new MachineTools() : undefined);
    const itself = new OwnReadings(store, database);
    const writing = new Set<Promise<void>>();
    opened.push(() => Promise.race([Promise.all(writing), delay(lastWritesMs, undefined, { ref: false })]));
    const gathering = everyMultiple(
      config.gatherEveryMs,
      async (nowMs) => {
        const run = sources.find(thisMachine.source.id);
        if (!run || run.source.paused) return;
        const began = performance.now();
        const [gathered, own] = await Promise.all([gatherer.gather(), itself.gather()]);
        const readings = [...gathered, ...own];
        run.heard(nowMs, performance.now() - began);
        // Not awaited: while the database is away, gathering goes on and the journal keeps what waits.
        const write = writeReadings(store, run.source, nowMs, readings)
          .then((taken) => run.noteTaken(taken))
          .catch((error) => log.warn({ err: error }, "a gathering was not stored"))
          .then(() => void writing.delete(write));
        writing.add(write);
      },
      (error) => log.error({ err: error }, "gathering this machine failed"),
      { atOnce: true },
    );
    opened.push(() => gathering.stop());
    const checking = everyMultiple(checkEveryMs, check, (error) => log.error({ err: error }, "checking rules failed"), { offsetMs: checkOffsetMs });
    opened.push(() => checking.stop());

    const { port } = server.address() as AddressInfo;
    const host = config.host.includes(":") ? `[${config.host}]` : config.host;
    return { address: `${transport.scheme}://${host}:${port}`, setupCode: (await hasOwner(database)) ? undefined : setupCode, store, database, sources, names, tokens, live, lastSampleBeforeMs, close: closeAll };
  } catch (error) {
    await closeAll().catch(() => {});
    throw error;
  }
}
