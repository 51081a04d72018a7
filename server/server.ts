import type { AddressInfo } from "node:net";
import type { Logger } from "pino";
import type { AlertingSettings, AlertingView } from "../core/api/alerting.ts";
import type { ConditionView, Health } from "../core/api/condition.ts";
import type { Config } from "./config.ts";
import { claimDatabase, type TakenError } from "./db/claim.ts";
import { type ClockJump, ServerClock } from "./clock/server-clock.ts";
import { presentSpan } from "../core/units/present.ts";
import { insertEvents } from "./events/events.ts";
import { isFull } from "./db/database-away.ts";
import { migrate } from "./db/migrate.ts";
import { type Database, openDatabase } from "./db/pool.ts";
import { everyMultiple } from "./gather/schedule.ts";
import { type MachineFiles, machineFiles } from "./gather/this-machine/machine-files.ts";
import { OwnReadings } from "./gather/itself/own-readings.ts";
import { connectOwnEngine } from "./sources/own-engine.ts";
import { MachineTools } from "./gather/this-machine/machine-tools.ts";
import { OwnMachine } from "./gather/this-machine/own-machine.ts";
import { createApp } from "./app.ts";
import { signInKey } from "./people/signed-in.ts";
import { newSetupCode } from "./people/people-router.ts";
import { LiveHub } from "./live/live-hub.ts";
import { hasOwner } from "./people/accounts.ts";
import { RuleChecker, type RuleNews } from "./rules/rule-checker.ts";
import { readCosts } from "./costs/costs.ts";
import { ProcessorShare } from "./costs/processor-share.ts";
import { recentSamples, SampleRate } from "./store/sample-rate.ts";
import { startJobs } from "./jobs/jobs.ts";
import { Deliverer } from "./messages/deliverer.ts";
import { sealOldRecipients } from "./messages/recipient-rows.ts";
import { Dispatcher } from "./messages/dispatcher.ts";
import { QuietDesk } from "./quiet/quiet-desk.ts";
import { readAlertingSettings, writeAlertingSettings } from "./alerting/alerting-settings.ts";
import { Heartbeat } from "./alerting/heartbeat.ts";
import { forgetIncidents } from "./rules/incident-rows.ts";
import { Rehearser } from "./rules/rehearser.ts";
import { readRetention } from "./store/retention.ts";
import { SilenceWatch } from "./alerting/silence-watch.ts";
import { MachineNames } from "./machines/machine-names.ts";
import { SecretBox } from "./sources/secret-box.ts";
import { Sources } from "./sources/sources.ts";
import { Tokens } from "./people/tokens.ts";
import { Transport } from "./transport/transport.ts";
import { countSetAside, listSetAside } from "./store/quarantine.ts";
import { Spool } from "./store/spool.ts";
import { Store } from "./store/store.ts";
import { WorkerPool } from "./work/worker-pool.ts";
import { LargeBodies } from "./intake/large-bodies.ts";
import { LogBook } from "./log-book.ts";
import type { Parent } from "./parent.ts";
import type { DemoInfo } from "./counters/demo-info.ts";
import { version } from "./version.ts";

/** Rules are looked at so often; each is checked when it is due. */
const checkEveryMs = 1000;
/** Gatherings stand at whole multiples of their interval; rules are checked a little after, when those are stored. */
const checkOffsetMs = 600;
/** Checks that are later than this are too late for the heartbeat. */
const mostLagMs = 60_000;
const hoursMs = 86_400_000;

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
  /** What the log has said, for a page. */
  readonly book?: LogBook;
  /** In place of the machine the server runs on. */
  readonly files?: MachineFiles;
  /** Runs when the store is open and before gathering starts. */
  /** Of the sample world: who may sign in, told to everybody, and how far its past is written. */
  readonly demo?: DemoInfo;
  /** The start command; undefined where it was started otherwise. */
  readonly parent?: Parent;
  /** Called where another server has begun to work on the database while this one had lost it: this one must end. */
  readonly lost?: (error: TakenError) => void;
  readonly before?: (store: Store, database: Database) => Promise<void>;
}

/** Reachable and full is worth telling apart from away: the remedy is another. */
function databaseState(reachable: boolean, failure: Error | undefined): Health["database"] {
  if (failure && isFull(failure)) return "full";
  return reachable && !failure ? "ok" : "away";
}

/** Starts the whole server; what was opened is closed again where a later step fails. */
export async function startServer(
  config: Config,
  {
    log,
    parent,
    book = new LogBook(),
    files: given,
    before,
    demo,
    lost = (error) => log.error(error.message),
  }: ServerOptions,
): Promise<RunningServer> {
  const files = given ?? machineFiles(config.roots);
  const ownMachine = given === undefined && config.roots.proc === "/proc";
  const opened: (() => unknown)[] = [];
  const closeAll = async () => {
    for (const close of opened.reverse()) await close();
  };
  try {
    const claim = await claimDatabase(config.databaseUrl, lost);
    opened.push(() => claim.release());
    const database = openDatabase(config.databaseUrl);
    opened.push(() => database.end());
    await migrate(database);
    await claim.note();
    let jumped: (jump: ClockJump) => void = () => {};
    const clock = await ServerClock.open(database, (jump) => jumped(jump));
    const pool = new WorkerPool(config.databaseUrl);
    const store = await Store.open(database, {
      executor: pool,
      acting: clock.actingMs,
      mayWrite: () => claim.held,
      spool: config.spoolFile === undefined ? undefined : new Spool(config.spoolFile),
    });
    opened.push(() => store.close());
    const lastSampleBeforeMs = store.health.lastSampleAtMs;
    await before?.(store, database);
    const box = SecretBox.open(config.keyFile);
    await sealOldRecipients(database, box).catch((error) =>
      log.warn({ err: error }, "what recipients kept in clear could not be sealed"),
    );
    const sources = await Sources.open(database, store, box, log, {
      told: (ms) => clock.told(ms),
      noteEvents: (events) => insertEvents(database, events),
    });
    opened.push(() => sources.close());
    const names = await MachineNames.open(database);
    const tokens = new Tokens(database);

    const transport = await Transport.open(config, log);
    opened.push(() => transport.close());

    const live = new LiveHub(signInKey);
    opened.push(() => live.close());
    const quiet = new QuietDesk(database);
    const dispatcher = new Dispatcher(database, quiet, names, (machine) => sources.isPaused(machine));
    let hasNews = true;
    const tell = (news: RuleNews) => {
      hasNews = true;
      const hidden = dispatcher.hidden(news.incident, Date.now()).then(
        ({ isQuiet }) => isQuiet,
        () => false,
      ); // rather told than lost
      void hidden.then((isQuiet) => live.publish({ ...news, isQuiet }));
    };
    const checker = await RuleChecker.open(database, store, tell, names, {
      isGone: (machine) => sources.isGone(machine),
      isHeard: (machine, sinceMs) => sources.isHeard(machine, sinceMs),
    });
    const silence = await SilenceWatch.open(database, sources, tell);
    let settings = await readAlertingSettings(database, box);
    let ownAddress = "";
    const address = async () => settings.address || ownAddress;
    const deliverer = new Deliverer({ database, store, names, box, address, log });
    const jobs = await startJobs(
      database,
      {
        maintain: async () => {
          await store.maintain();
          await forgetIncidents(database, clock.actingMs() - (await readRetention(database)).hourDays * hoursMs);
        },
        deliver: (payload, { job }) =>
          deliverer.deliver((payload as { message: string }).message, job.attempts, job.max_attempts),
      },
      log,
    );
    opened.push(() => jobs.stop());
    const rate = new SampleRate();
    store.onCommit((batch) => {
      const now = Date.now();
      rate.count(recentSamples(batch, now), now);
      live.publish({ kind: "samples", atMs: now });
    });

    const setupCode = newSetupCode();
    let databaseSince: number | null = null;
    const notReached = async () =>
      (await dispatcher.listed()).flatMap(({ id, name, failingSinceMs, failure }) =>
        failingSinceMs === null ? [] : [{ id, name, sinceMs: failingSinceMs, failure: failure ?? "" }],
      );
    const health = async (): Promise<Health> => {
      const { lastSampleAtMs, waitingSamples, mostWaiting, onDisk, failure, refused } = store.health;
      const reachable = await database.query("select 1").then(
        () => true,
        () => false,
      );
      const state = databaseState(reachable, failure);
      const { lagMs, lines, failing } = checker.stats(Date.now());
      const failingRecipients = await notReached().catch(() => []);
      databaseSince = state === "ok" ? null : (databaseSince ?? Date.now());
      return {
        status: state === "ok" ? "ok" : "degraded",
        version,
        database: state,
        databaseSince,
        databaseTries: state === "away" && parent?.database?.said ? parent.database.tries : 0,
        setAside: await countSetAside(database).catch(() => null),
        clockBelieved: clock.isBelieved,
        lastSampleAt: lastSampleAtMs ?? null,
        samplesPerSecond: rate.perSecond(Date.now()),
        waitingSamples,
        mostWaiting,
        waitingOnDisk: onDisk,
        refused,
        alerting: { lagMs, lines, failingRules: failing, failingRecipients: failingRecipients.length },
      };
    };
    const processor = new ProcessorShare();
    opened.push(() => processor.stop());
    const costs = () => readCosts(database, store, rate.perSecond(Date.now()), processor, config.dataFolder);
    const condition = async (): Promise<ConditionView> => ({
      clock: clock.view(),
      log: book.entries(),
      database: parent?.database ?? null,
      setAside: await listSetAside(database).catch(() => null),
    });
    const heartbeat = new Heartbeat(
      async () => settings.heartbeatUrl,
      () => checker.stats(Date.now()).lagMs < mostLagMs,
    );
    let round = 0;
    const check = async (all = false) => {
      clock.look();
      void clock.keep().catch(() => {}); // while the database is away it is kept a little later
      if (await sources.endPauses(Date.now())) alertingNews();
      await checker.check(Date.now(), all);
      await silence.check(Date.now());
      // What waits for its time (a group, a repeat, the end of a quiet time) is looked at every few seconds, news at
      // once.
      if (hasNews || round++ % 5 === 0) {
        hasNews = false;
        await dispatcher.run(Date.now());
      }
      void heartbeat.beat(Date.now());
    };
    const alerting = async (): Promise<AlertingView> => {
      const now = Date.now();
      const [all, failingRecipients, beat] = await Promise.all([quiet.allQuiet(now), notReached(), heartbeat.view()]);
      const { lagMs, lines, failing } = checker.stats(now);
      return {
        allQuiet: all
          ? { id: all.quiet.id, title: all.quiet.title, by: all.quiet.by, why: all.quiet.why, untilMs: all.toMs }
          : null,
        failingRecipients,
        failingRules: failing,
        lagMs,
        checkedLines: lines,
        heartbeat: beat,
        address: await address(),
      };
    };
    const alertingNews = () => {
      hasNews = true;
      live.publish({ kind: "alerting" });
    };
    const changeAlerting = async (next: AlertingSettings) => {
      await writeAlertingSettings(database, next, box);
      settings = next;
      heartbeat.soon();
    };
    jumped = ({ atMs, byMs }) => {
      const words = `This server's clock was set ${byMs > 0 ? "ahead" : "back"} by ${presentSpan(Math.abs(byMs))}${byMs > 0 ? ", or the machine slept" : ""}.`;
      log.warn(words);
      if (byMs < 0) {
        sources.rebase(atMs);
        checker.rebase(atMs);
        void jobs
          .rebase(byMs)
          .catch((error) => log.warn({ err: error }, "jobs could not be put forward after the clock was set back"));
      }
      void insertEvents(database, [
        { fromMs: atMs, toMs: atMs, kind: "clock", machine: config.machineName, text: words, tags: {} },
      ]).then(
        () => live.publish({ kind: "event" }),
        () => {},
      );
    };
    if (!clock.isBelieved)
      log.warn(
        `This server's clock says ${new Date().toISOString()}, ${presentSpan(Date.now() - clock.actingMs())} beyond when it ran last. Nothing is deleted by it until another machine or a person says that it is right.`,
      );
    const rehearser = new Rehearser(store, names, pool);
    const app = createApp({
      database,
      store,
      checker,
      live,
      log,
      setupCode,
      commandToken: config.commandToken,
      sources,
      names,
      tokens,
      transport,
      demo,
      health,
      costs,
      condition,
      clock,
      bodies: new LargeBodies(pool),
      rehearser,
      dispatcher,
      deliverer,
      quiet,
      box,
      alerting,
      changeAlerting,
      alertingNews,
      checkSoon: () => void check(true).catch((error) => log.error({ err: error }, "checking rules failed")),
    });
    const server = transport.server(app);
    await new Promise<void>((resolve, reject) => {
      server.once("error", reject);
      server.listen(config.port, config.host, resolve);
    });
    const listened = server.address();
    if (typeof listened === "object" && listened) transport.listensAt(listened.port);
    opened.push(
      () =>
        new Promise<void>((resolve) => {
          server.close(() => resolve());
          server.closeAllConnections();
        }),
    );

    const tools = ownMachine ? new MachineTools(parent?.runsTools ? parent.run : undefined) : undefined;
    await sources.gatherThisMachine(
      config.machineName,
      config.gatherEveryMs,
      new OwnMachine(files, new OwnReadings(store, database), tools),
    );
    if (ownMachine) await connectOwnEngine(sources, config.machineName, files);
    const checking = everyMultiple(
      checkEveryMs,
      () => check(),
      (error) => log.error({ err: error }, "checking rules failed"),
      { offsetMs: checkOffsetMs },
    );
    opened.push(() => checking.stop());

    const { port } = server.address() as AddressInfo;
    const host = config.host.includes(":") ? `[${config.host}]` : config.host;
    ownAddress = `${transport.scheme}://${host}:${port}`;
    return {
      address: ownAddress,
      setupCode: (await hasOwner(database)) ? undefined : setupCode,
      store,
      database,
      sources,
      names,
      tokens,
      live,
      lastSampleBeforeMs,
      close: closeAll,
    };
  } catch (error) {
    await closeAll().catch(() => {});
    throw error;
  }
}
