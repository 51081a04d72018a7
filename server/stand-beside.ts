import { createApp } from "./app.ts";
import { Router } from "express";
import type { Logger } from "pino";
import { Beside } from "./beside/beside.ts";
import { handsOn } from "./beside/hand-on.ts";
import { ServerClock } from "./clock/server-clock.ts";
import { type Config, ConfigError } from "./config.ts";
import { standOn } from "./dashboards/stand-on.ts";
import { type Claim, claimDatabase, type TakenError } from "./db/claim.ts";
import { standingOf } from "./db/migrate.ts";
import { Standby } from "./db/standby.ts";
import { type Database, openDatabase } from "./db/pool.ts";
import { HourlyPast } from "./differences/hourly-past.ts";
import { listsOf } from "./differences/read-lines.ts";
import { DisposalStack } from "./disposal-stack.ts";
import { listening } from "./http/listening.ts";
import { isKeyOf } from "./keys/change-key.ts";
import { LiveHub } from "./live/live-hub.ts";
import { MachineNames } from "./machines/machine-names.ts";
import { nameByProxy } from "./people/by-proxy.ts";
import { signInKey } from "./people/signed-in.ts";
import { Tokens } from "./people/tokens.ts";
import { LookedAt } from "./planning/watching/looked-at.ts";
import { readingsRouter } from "./reading/readings-router.ts";
import { AskingShare } from "./sharing/asking-share.ts";
import { LeaderClient } from "./sharing/leader-client.ts";
import { SourcesHere } from "./sharing/sources-here.ts";
import { TakingHere } from "./sharing/taking-here.ts";
import { TellingAccounts } from "./sharing/telling-accounts.ts";
import { placeOnNetwork } from "./sharing/place.ts";
import { Slowness } from "./slowness/slowness.ts";
import { SecretBox } from "./sources/secret-box.ts";
import type { Flushed } from "./store/journal.ts";
import { flushesOf } from "./store/keeping.ts";
import { Store } from "./store/store.ts";
import { Transport } from "./transport/transport.ts";
import { WorkerPool } from "./work/worker-pool.ts";

/** A server that stands beside the one that leads. */
export interface StandingBeside {
  readonly address: string;
  readonly reachedAt: readonly string[];
  /** Resolves once no server led and this one has the lock: it is to be closed then, and leads. */
  readonly lead: Promise<Claim>;
  /** Asks no more; the answer is what it gathered and is not known to be stored. */
  handOver(): Promise<readonly string[]>;
  close(): Promise<void>;
}

const namesEveryMs = 5000;

/**
 * Stands beside the server that leads: answers readings from a store of its own, which follows what all write, takes what
 * is sent where nothing is to be decided about it, and hands all else on. Throws ConfigError where the database is of an
 * older version.
 */
export async function standBeside(
  config: Config,
  log: Logger,
  lost: (error: TakenError) => void,
): Promise<StandingBeside> {
  const open = new DisposalStack();
  try {
    const database = openDatabase(config.databaseUrl);
    open.use({ close: () => database.end() });
    await assertSameVersion(database);
    await assertSameKey(database, config.keyFile);
    const clock = await ServerClock.open(database);
    const standby = config.readUrl === undefined ? undefined : open.use(new Standby(database, config.readUrl));
    standby?.start();
    const executor = new WorkerPool(config.databaseUrl, undefined, { standby });
    const slowness = open.use(new Slowness({ database, machine: config.machineName, log }));
    const failed = (error: Error) => log.info({ err: error }, "the journal could not be followed; it is tried again");
    const { flushed, takeStored } = flushesHere(slowness);
    const options = { acting: clock.actingMs, executor, flushed, ...(standby && { moved: () => standby.moved() }) };
    const store = open.use(await Store.follow(database, config.databaseUrl, options, failed));
    const names = await MachineNames.open(database);
    const reading = setInterval(() => void names.reread().catch(() => {}), namesEveryMs);
    open.use({ close: () => clearInterval(reading) });
    const past = open.use(new HourlyPast(store, log, () => listsOf(store)));
    const transport = open.use(await Transport.open(config, log));
    const takeBehindMs = () => store.takeBehindMs();
    const claim = () => claimDatabase(config.databaseUrl, lost, true);
    // Without the key of the others no secret of a source can be read.
    const place = config.keyFile === undefined ? undefined : placeOnNetwork();
    const beside = open.use(new Beside({ database, claim, log, takeBehindMs, takeStored, place }));
    const { signInHeader } = config;
    const proxied = (request: Parameters<typeof nameByProxy>[0]) => nameByProxy(request, signInHeader);
    const handOn = open.use(handsOn({ leader: beside.leader, proxied, signInHeader }));
    const lookedAt = open.use(await LookedAt.open(database));
    const readings = readingsRouter(store, names, past, {
      slowness,
      lookedAt: (counters) => lookedAt.note(counters),
      standOn: (ids, documents) => standOn(database, ids, documents),
    });
    const routes = { senders: Router(), open: [Router()], people: [Router()], inside: [readings] };
    const live = open.use(new LiveHub({ keyOf: signInKey, hears: () => () => false }));
    const tokens = new Tokens(database);
    const { basePath } = transport;
    const client = new LeaderClient({ leader: beside.leader, basePath });
    const sources = new SourcesHere(database, store);
    const accounts = open.use(new TellingAccounts(client, log, () => sources.tellAnew()));
    const taking = new TakingHere({ database, store, sources, accounts, log });
    const beforeAll = [taking.handler, handOn];
    const parts = { database, clock, tokens, transport, live, names, log, slowness, signInHeader, beforeAll };
    const app = createApp(routes, parts);
    const server = open.use(await listening(transport.server(app), config.port, config.host));
    transport.listensAt(server.port);
    past.start();
    const { ownAddress: address, reachedAt } = transport;
    beside.start(config.ownAddress ?? reachedAt[0] ?? address);
    const { leader, instance, lead } = beside;
    const box = SecretBox.open(config.keyFile);
    const asks = { database, log, leader, instance, box, basePath, sources, accounts };
    const share = place === undefined ? undefined : open.use(new AskingShare(asks));
    share?.start();
    const handOver = async () => (await share?.handOver()) ?? [];
    return { address, reachedAt, lead, handOver, close: () => open.close() };
  } catch (error) {
    await open.close().catch(() => {});
    throw error;
  }
}

/** Notes commits that take long, and counts what this server has stored since it was asked last. */
function flushesHere(slowness: Slowness): { readonly flushed: Flushed; readonly takeStored: () => number } {
  const slow = flushesOf(slowness);
  let stored = 0;
  return {
    flushed: (tookMs, samples, failure) => {
      if (!failure) stored += samples;
      slow(tookMs, samples, failure);
    },
    takeStored: () => {
      const since = stored;
      stored = 0;
      return since;
    },
  };
}

async function assertSameKey(database: Database, keyFile: string | undefined): Promise<void> {
  if (keyFile !== undefined && !(await isKeyOf(database, keyFile)))
    throw new ConfigError(
      `The key in ${keyFile} opens none of the passwords that are sealed in this database, so that this server could not lead. Put the key of the server that leads in its place: own/secrets.key of that one's data folder.`,
    );
}

async function assertSameVersion(database: Database): Promise<void> {
  const { lacks } = await standingOf(database);
  if (lacks.length > 0)
    throw new ConfigError(
      "The server that leads is of an older version than this one, whose tables it lacks. Stop all servers of this database, and start this version first.",
    );
}
