import { Alerting } from "./alerting/alerting.ts";
import { tellOthers } from "./beside/beside.ts";
import { createApp } from "./app.ts";
import { watchClock } from "./clock-watch.ts";
import { Condition } from "./condition/condition.ts";
import type { Config } from "./config.ts";
import { firstSentence } from "./differences/first-sentence.ts";
import { HourlyPast } from "./differences/hourly-past.ts";
import { listsOf } from "./differences/read-lines.ts";
import { DisposalStack } from "./disposal-stack.ts";
import { openGround } from "./ground.ts";
import { listening } from "./http/listening.ts";
import { startJobs } from "./jobs/jobs.ts";
import { tasksOf } from "./jobs-of-parts.ts";
import { LogBook } from "./log-book.ts";
import { gatherOwnMachine } from "./own-gathering.ts";
import { hasOwner } from "./people/account-rows.ts";
import { newSetupCode } from "./people/setup-router.ts";
import { LookedAt } from "./planning/watching/looked-at.ts";
import { planningParts } from "./planning/planning-parts.ts";
import { Recordings } from "./recordings/recordings.ts";
import { routesOf } from "./routes.ts";
import type { RunningServer, ServerOptions } from "./running-server.ts";

/** Starts the whole server: every part is opened in order, and closed in the other one, also where a later one fails. */
export async function startServer(config: Config, options: ServerOptions): Promise<RunningServer> {
  const { log, parent, demo, book = new LogBook() } = options;
  const { commandToken, dataFolder, machineName: machine, port, host } = config;
  const open = new DisposalStack();
  try {
    const ground = await openGround(open, config, options);
    const { database, transport, keeping } = ground;
    const past = open.use(new HourlyPast(ground.store, log, () => listsOf(ground.store)));
    const differed = firstSentence(ground.store, ground.pool, past);
    const alerting = await Alerting.open({ ...ground, differed, ownAddress: () => transport.linkAddress });
    const recordings = open.use(await Recordings.open({ ...ground, dataFolder }));
    const [tries, backups] = [() => parent?.database ?? null, () => parent?.backups ?? null];
    const condition = open.use(new Condition({ ...ground, book, dataFolder, tries, backups, alerting }));
    const planning = planningParts({ ...ground, alerting, condition, machine });
    const jobs = open.use(await startJobs(database, tasksOf({ ...ground, alerting, planning }), log, ground.slowness));
    watchClock({ ...ground, machine, alerting, recordings, jobs });
    const [code, lookedAt] = [newSetupCode(), open.use(await LookedAt.open(database))];
    const parts = { ...ground, alerting, condition, recordings, past, planning, lookedAt, demo };
    const routes = routesOf({ ...parts, setupCode: code, commandToken });
    const server = open.use(await listening(transport.server(createApp(routes, ground)), port, host));
    transport.listensAt(server.port);
    await tellOthers(ground, config.ownAddress);
    await gatherOwnMachine(config, options, { ...ground, planning });
    open.use(alerting).start();
    recordings.start();
    past.start();
    const setupCode = (await hasOwner(database)) ? undefined : code;
    const told = { checkRules: alerting.checkRules, lastSampleBeforeMs: keeping.lastSampleBeforeMs, setupCode };
    const { ownAddress: address, reachedAt } = transport;
    return { ...ground, ...told, recordings, planning, address, reachedAt, close: () => open.close() };
  } catch (error) {
    await open.close().catch(() => {});
    throw error;
  }
}
