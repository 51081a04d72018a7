import { incidentFeedsRouter } from "./rules/incident-feeds-router.ts";
import { metricsRouter } from "./counters/metrics-router.ts";
import { problemsRouter } from "./http/problems-router.ts";
import { basePathOf } from "./http/asked-below.ts";
import { recipientRow } from "./messages/recipient-rows.ts";
import { noteByShell } from "./audit/audit-rows.ts";
import { placesRouter } from "./people/places/places-router.ts";
import { doorNewsRouter } from "./audit/door-news.ts";
import { setupRouter } from "./people/setup-router.ts";
import type { Logger } from "pino";
import { waysRouter } from "./people/ways-router.ts";
import { issuerEntranceRouter, issuerRouter } from "./people/issuer/issuer-router.ts";
import { Issuer } from "./people/issuer/issuer.ts";
import { Passkeys } from "./people/passkeys/passkeys.ts";
import { passkeyEntranceRouter, passkeysRouter } from "./people/passkeys/passkeys-router.ts";
import { type Request, Router } from "express";
import { Rehearser } from "./rules/rehearser.ts";
import { LargeBodies } from "./intake/large-bodies.ts";
import { otlpRouter } from "./intake/otlp-router.ts";
import type { Forwarding } from "./forwarding/forwarding.ts";
import { forwardsRouter } from "./forwarding/forwards-router.ts";
import type { PushKeys } from "./messages/push-keys.ts";
import type { RelayDesk } from "./relay/relay-desk.ts";
import { relayRouter } from "./relay/relay-router.ts";
import { accountsPath } from "./sharing/account.ts";
import { takesAccounts } from "./sharing/takes-accounts.ts";
import { takesSharedRecords } from "./sharing/shared-records-router.ts";
import { recordsPath } from "./sharing/waiting-records.ts";
import { pushRouter } from "./intake/push-router.ts";
import type { Alerting } from "./alerting/alerting.ts";
import { alertingRouter } from "./alerting/alerting-router.ts";
import { auditRouter } from "./audit/audit-router.ts";
import { BriefingDesk } from "./briefing/briefing-desk.ts";
import { briefingRouter } from "./briefing/briefing-router.ts";
import type { ServerClock } from "./clock/server-clock.ts";
import type { Condition } from "./condition/condition.ts";
import { profileHandler } from "./condition/profile-handler.ts";
import { conditionRouter } from "./condition/condition-router.ts";
import { healthRouter } from "./condition/health-router.ts";
import { costsRouter } from "./costs/costs-router.ts";
import { countersRouter } from "./counters/counters-router.ts";
import type { DemoInfo } from "./counters/demo-info.ts";
import { demoRouter } from "./counters/demo-router.ts";
import { tagsRouter } from "./counters/tags-router.ts";
import { dashboardOf } from "./dashboards/dashboard-rows.ts";
import { shownMachines } from "./dashboards/shown-machines.ts";
import { shownTo } from "./dashboards/shown-counters.ts";
import { standOn } from "./dashboards/stand-on.ts";
import { dashboardsRouter } from "./dashboards/dashboards-router.ts";
import type { HourlyPast } from "./differences/hourly-past.ts";
import { differencesRouter } from "./differences/differences-router.ts";
import type { Database } from "./db/pool.ts";
import { listEvents } from "./events/event-rows.ts";
import { eventsRouter, sentEvents } from "./events/events-router.ts";
import { type CollectorTrust, collectorRouter } from "./intake/collector-router.ts";
import { windowsCountersRouter, windowsListRouter } from "./intake/windows-counters-router.ts";

import { linksRouter } from "./links/links-router.ts";
import type { LiveHub } from "./live/live-hub.ts";
import type { MachineNames } from "./machines/machine-names.ts";
import type { MachineList } from "./machines/machine-list.ts";
import { machinesRouter } from "./machines/machines-router.ts";
import { listMessages } from "./messages/message-rows.ts";
import { handingOver } from "./messages/handing-over.ts";
import { recipientsRouter } from "./messages/recipients-router.ts";
import { recordingsRouter } from "./recordings/recordings-router.ts";
import { runFilesRouter } from "./recordings/run-files-router.ts";
import { sentRuns } from "./recordings/sent-runs.ts";
import type { Recordings } from "./recordings/recordings.ts";
import { warnOfBudget } from "./planning/budget-rule.ts";
import { watchingRouter } from "./planning/watching-router.ts";
import type { LookedAt } from "./planning/watching/looked-at.ts";
import { monthRouter } from "./planning/month-router.ts";
import type { SendingParts } from "./planning/month/month-sending.ts";
import { fitRouter } from "./planning/fit-router.ts";
import { energyRouter } from "./planning/energy-router.ts";
import { spaceRouter } from "./planning/space-router.ts";
import { codesRouter } from "./people/codes-router.ts";
import { TimeCodes } from "./people/time-codes.ts";
import { Entrance } from "./people/entrance.ts";
import { invitedRouter, membersRouter } from "./people/members-router.ts";
import { sessionsRouter } from "./people/sessions-router.ts";
import { peopleRouter } from "./people/people-router.ts";
import type { Tokens } from "./people/tokens.ts";
import { ownTokensRouter, tokensRouter } from "./people/tokens-router.ts";
import { calendarRouter, quietRouter } from "./quiet/quiet-router.ts";
import { readingsRouter } from "./reading/readings-router.ts";
import { incidentsRouter } from "./rules/incidents-router.ts";
import { rulesRouter } from "./rules/rules-router.ts";
import type { SecretBox } from "./sources/secret-box.ts";
import { slownessRouter } from "./slowness/slowness-router.ts";
import type { Slowness } from "./slowness/slowness.ts";
import type { Sources } from "./sources/sources.ts";
import { receivedRouter } from "./sources/received-router.ts";
import { tryingRouter } from "./sources/trying-router.ts";
import { sourcesRouter } from "./sources/sources-router.ts";
import { lowestSteadiness } from "./steadiness/steady-days.ts";
import { steadinessRouter } from "./steadiness/steadiness-router.ts";
import type { Store } from "./store/store.ts";
import { importHandler } from "./transfer/import-handler.ts";
import type { Transport } from "./transport/transport.ts";
import { authorityRouter, transportRouter } from "./transport/transport-router.ts";
import type { WorkerPool } from "./work/worker-pool.ts";

/** The parts of the server that answer somebody. */
export interface AnsweringParts {
  readonly database: Database;
  readonly store: Store;
  readonly pool: WorkerPool;
  readonly clock: ServerClock;
  readonly box: SecretBox;
  readonly pushKeys: PushKeys;
  readonly live: LiveHub;
  readonly sources: Sources;
  readonly relays: RelayDesk;
  readonly forwarding: Forwarding;
  readonly names: MachineNames;
  readonly machines: MachineList;
  readonly tokens: Tokens;
  readonly transport: Transport;
  readonly alerting: Alerting;
  readonly condition: Condition;
  readonly slowness: Slowness;
  readonly recordings: Recordings;
  readonly past: HourlyPast;
  readonly planning: SendingParts;
  readonly lookedAt: LookedAt;
  readonly demo: DemoInfo | undefined;
  readonly setupCode: string;
  readonly signInHeader: string | undefined;
  readonly log: Logger;
  readonly commandToken: string | undefined;
}

/** Routers by whom they answer. */
export interface RoutesOfServer {
  /** Programs that send, with a token of their own in each request. */
  readonly senders: Router;
  /** Anybody. */
  readonly open: readonly Router[];
  /** Those who sign in or out, or were invited: not known yet. */
  readonly people: readonly Router[];
  /** Those who are signed in, and tokens that may read or manage. */
  readonly inside: readonly Router[];
}

export function routesOf(parts: AnsweringParts): RoutesOfServer {
  const { database, box, log, setupCode, signInHeader, clock, condition, demo } = parts;
  const acting = clock.actingMs;
  const entrance = new Entrance({ ...parts, acting });
  const codes = new TimeCodes({ ...parts, acting });
  const passkeys = new Passkeys(database);
  const issuer = new Issuer(database, box);
  const issuing = { database, entrance, issuer, box, log, acting };
  return {
    senders: sendersOf(parts),
    open: [healthRouter(condition.health), demoRouter(demo), problemsRouter()],
    people: [
      setupRouter({ database, entrance, issuer, setupCode, signInHeader }),
      peopleRouter({ database, entrance, codes, signInHeader, acting }),
      issuerEntranceRouter(issuing),
      passkeyEntranceRouter({ database, entrance, passkeys }),
      invitedRouter({ database, entrance }),
    ],
    inside: [
      codesRouter(codes, entrance),
      issuerRouter(issuing),
      waysRouter(database, issuer),
      passkeysRouter({ database, entrance, passkeys, acting }),
      ...peopleOf(parts, entrance),
      ...insideOf(parts),
    ],
  };
}

function sendersOf(parts: AnsweringParts): Router {
  const { database, store, pool, sources, tokens, transport, live, alerting, commandToken } = parts;
  const router = Router();
  const bodies = new LargeBodies(pool);
  router.use(otlpRouter(tokens, sources, bodies));
  router.use(collectorRouter(tokens, sources, () => trustFor(transport), originOf));
  router.use(authorityRouter(transport));
  router.post(
    "/api/import",
    importHandler(
      store,
      () => sources.limits,
      commandToken,
      () => noteByShell(database, "POST /import", ""),
    ),
  );
  router.post(
    "/api/profile",
    profileHandler(commandToken, () => noteByShell(database, "POST /profile", "")),
  );
  router.use("/api", pushRouter(tokens, sources, bodies));
  router.use("/api", relayRouter({ database, tokens, sources, desk: parts.relays }));
  router.post(`/api${recordsPath}`, takesSharedRecords(sources));
  router.post(`/api${accountsPath}`, takesAccounts(sources));
  router.use(windowsListRouter(tokens, database));
  router.post("/api/events", sentEvents({ database, live, tokens, sources, commandToken }));
  router.post("/api/recordings/:id/runs", sentRuns(parts));
  router.use("/api", calendarRouter(alerting.quiet, tokens));
  router.use("/api", incidentFeedsRouter({ database, tokens, names: parts.names, address: parts.planning.address }));
  return router;
}

/** What is raised, and who is told. */
function alertsOf(parts: AnsweringParts): readonly Router[] {
  const { database, store, pool, names, box, pushKeys, alerting } = parts;
  return [
    rulesRouter({
      database,
      checker: alerting.checker,
      rehearser: new Rehearser(store, names, pool),
      checkSoon: alerting.checkSoon,
      changed: alerting.changed,
    }),
    incidentsRouter(database, alerting.checker, alerting.changed, {
      messagesOf: (id, most) => listMessages(database, most, id),
      eventsIn: (fromMs, toMs) => listEvents(database, fromMs, toMs),
    }),
    recipientsRouter({ database, dispatcher: alerting.dispatcher, deliverer: alerting.deliverer, box, pushKeys }),
    quietRouter(alerting.quiet, alerting.changed),
    alertingRouter(alerting.view, alerting.changeSettings),
  ];
}

/** What people and programs are let in by. */
function peopleOf(parts: AnsweringParts, entrance: Entrance): readonly Router[] {
  const { database, clock, planning, tokens, sources, live } = parts;
  return [
    sessionsRouter({ database, entrance, acting: clock.actingMs }),
    placesRouter({ database, entrance, acting: clock.actingMs }),
    membersRouter({ database, entrance, address: planning.address, hand: handingOver(parts) }),
    tokensRouter(tokens, sources, live),
    ownTokensRouter(tokens, live),
    auditRouter(database),
    doorNewsRouter(database, async (id) => (await recipientRow(database, id)) !== undefined),
    linksRouter({
      ...{ database, live, address: planning.address },
      coloursOf: (document) => {
        const shown = shownMachines(parts, document);
        const views = parts.machines.views(Date.now()).filter(({ name }) => shown.has(name));
        return Object.fromEntries(views.map(({ name, colour }) => [name, colour]));
      },
      tilesOf: async (id) => (await dashboardOf(database, id))?.document.tiles.map((tile) => tile.id),
    }),
  ];
}

/** What is gathered, looked at and planned. */
function insideOf(parts: AnsweringParts): readonly Router[] {
  const {
    database,
    store,
    sources,
    names,
    machines,
    tokens,
    live,
    transport,
    clock,
    alerting,
    condition,
    commandToken,
  } = parts;
  const shown = shownTo(database);
  return [
    machinesRouter(machines, sources, names),
    countersRouter(store, sources, names, shown),
    metricsRouter(store),
    tagsRouter(store, names, shown),
    readingsRouter(store, names, parts.past, {
      slowness: parts.slowness,
      lookedAt: (counters) => parts.lookedAt.note(counters),
      standOn: (ids, readings) => standOn(database, ids, readings),
    }),
    dashboardsRouter(database),
    ...alertsOf(parts),
    steadinessRouter(store, database, () => machines.views(Date.now()).map(({ name }) => name)),
    differencesRouter(parts),
    runFilesRouter(parts),
    recordingsRouter(parts),
    briefingRouter(
      new BriefingDesk(
        store,
        database,
        () => machines.views(Date.now()),
        (names, nowMs) => lowestSteadiness(store, database, names, nowMs),
        condition.backups,
      ),
    ),
    eventsRouter({ database, live, tokens, sources, commandToken }),
    sourcesRouter(sources, alerting.changed),
    tryingRouter(sources, (relay, asked) => parts.relays.ask(relay, asked)),
    receivedRouter(sources),
    forwardsRouter(parts.forwarding),
    windowsCountersRouter(sources, database),
    transportRouter(transport),
    costsRouter(store, condition.costs),
    slownessRouter(parts.database),
    energyRouter({ ...parts, warnOfBudget: (request) => warnOfBudget(parts, request) }),
    fitRouter(parts),
    spaceRouter(parts.planning),
    monthRouter(parts.planning),
    watchingRouter({ ...parts.planning, sources, lookedAt: parts.lookedAt }),
    conditionRouter(condition.view, clock),
  ];
}

/**
 * How the one who asks reaches this server; what stands in a Host header goes into texts that are pasted into a shell.
 */
function originOf(request: Request): string {
  const host = request.host ?? "";
  // A proxy may say any word for the protocol.
  return `${request.protocol === "http" ? "http" : "https"}://${/^[\w.-]+(:\d+)?$|^\[[0-9a-fA-F:]+\](:\d+)?$/.test(host) ? host : "localhost"}${basePathOf(request)}`;
}

/** Whoever believes the system's issuers believes a given certificate; the house's own is shown by its authority. */
function trustFor(transport: Transport): CollectorTrust {
  const { kind, authorityPem, pin } = transport.view(Date.now());
  return { pin: kind === "house" ? (pin ?? "") : "", authorityPem: kind === "house" ? (authorityPem ?? "") : "" };
}
