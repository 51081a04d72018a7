import { join } from "node:path";
import express, { type Express, type Request } from "express";
import helmet from "helmet";
import type { Logger } from "pino";
import type { AlertingSettings, AlertingView } from "../core/api/alerting.ts";
import type { ConditionView, Health } from "../core/api/condition.ts";
import type { CostsView } from "../core/api/costs.ts";
import type { ServerClock } from "./clock/server-clock.ts";
import type { Database } from "./db/pool.ts";
import type { LiveHub } from "./live/live-hub.ts";
import { projectRoot } from "./project-root.ts";
import type { RuleChecker } from "./rules/rule-checker.ts";
import type { LargeBodies } from "./intake/large-bodies.ts";
import { otlpRouter } from "./intake/otlp-router.ts";
import { pushRouter } from "./intake/push-router.ts";
import type { Tokens } from "./people/tokens.ts";
import type { Transport } from "./transport/transport.ts";
import type { MachineNames } from "./machines/machine-names.ts";
import type { Sources } from "./sources/sources.ts";
import type { DemoInfo } from "./counters/demo-info.ts";
import type { Store } from "./store/store.ts";
import { BriefingDesk } from "./briefing/briefing-desk.ts";
import { briefingRouter } from "./briefing/briefing-router.ts";
import { authorityRouter, transportRouter } from "./transport/transport-router.ts";
import { openapiOf } from "./http/openapi.ts";
import { servedOf } from "./http/serve.ts";
import { healthRouter } from "./condition/health-router.ts";
import { demoRouter } from "./counters/demo-router.ts";
import { livePath } from "../core/api/live.ts";
import { version } from "./version.ts";
import { ownNames } from "./transport/house.ts";
import { answeredNames } from "./http/answered-names.ts";
import { letTokensIn } from "./people/bearer.ts";
import { windowsCountersRouter, windowsListRouter } from "./intake/windows-counters-router.ts";
import { sourcesRouter } from "./sources/sources-router.ts";
import { tagsRouter } from "./counters/tags-router.ts";
import { tokensRouter } from "./people/tokens-router.ts";
import { type CollectorTrust, collectorRouter } from "./intake/collector-router.ts";
import { eventsRouter, sentEvents } from "./events/events-router.ts";
import { dashboardsRouter } from "./dashboards/dashboards-router.ts";
import { countersRouter } from "./counters/counters-router.ts";
import { conditionRouter } from "./condition/condition-router.ts";
import { costsRouter } from "./costs/costs-router.ts";
import { importHandler } from "./transfer/import-handler.ts";
import { listMachines, machinesRouter } from "./machines/machines-router.ts";
import { peopleRouter } from "./people/people-router.ts";
import { notThere, problemHandler } from "./http/problem.ts";
import { RememberedAnswers } from "./http/remembered-answers.ts";
import { readingsRouter } from "./reading/readings-router.ts";
import type { Deliverer } from "./messages/deliverer.ts";
import type { Dispatcher } from "./messages/dispatcher.ts";
import type { QuietDesk } from "./quiet/quiet-desk.ts";
import type { Rehearser } from "./rules/rehearser.ts";
import type { SecretBox } from "./sources/secret-box.ts";
import { alertingRouter } from "./alerting/alerting-router.ts";
import { listEvents } from "./events/events.ts";
import { listMessages } from "./messages/message-rows.ts";
import { incidentsRouter } from "./rules/incidents-router.ts";
import { calendarRouter, quietRouter } from "./quiet/quiet-router.ts";
import { recipientsRouter } from "./messages/recipients-router.ts";
import { rulesRouter } from "./rules/rules-router.ts";
import { sameOrigin, signedIn } from "./people/signed-in.ts";
import { storableBody } from "./http/storable-body.ts";

export interface AppParts {
  readonly database: Database;
  readonly store: Store;
  readonly checker: RuleChecker;
  readonly live: LiveHub;
  readonly log: Logger;
  readonly setupCode: string;
  readonly commandToken: string | undefined;
  readonly sources: Sources;
  readonly names: MachineNames;
  readonly tokens: Tokens;
  readonly transport: Transport;
  readonly demo?: DemoInfo | undefined;
  readonly health: () => Promise<Health>;
  readonly costs: () => Promise<CostsView>;
  readonly clock: ServerClock;
  readonly bodies: LargeBodies;
  readonly condition: () => Promise<ConditionView>;
  readonly rehearser: Rehearser;
  readonly dispatcher: Dispatcher;
  readonly deliverer: Deliverer;
  readonly quiet: QuietDesk;
  readonly box: SecretBox;
  readonly alerting: () => Promise<AlertingView>;
  readonly changeAlerting: (settings: AlertingSettings) => Promise<void>;
  /** Has alerting looked at anew, here and on every open page. */
  readonly alertingNews: () => void;
  /** Has the rules checked before their next turn. */
  readonly checkSoon: () => void;
}

/**
 * The Express application: everything below /api needs a sign-in but health and set-up; all other paths are the
 * interface.
 */
export function createApp(parts: AppParts): Express {
  const { database, store, checker, live, sources, names, tokens, transport } = parts;
  const app = express();
  const eventParts = { database, live, tokens, sources, commandToken: parts.commandToken };
  /** What is answered to anybody. */
  const open = [healthRouter(parts.health), demoRouter(parts.demo)];
  const people = peopleRouter({
    database,
    setupCode: parts.setupCode,
    acting: parts.clock.actingMs,
    box: parts.box,
    live,
  });
  /** What is answered to those who are signed in, and to tokens. */
  const inside = [
    machinesRouter(store, sources, names),
    countersRouter(store, sources, names),
    tagsRouter(store, names),
    readingsRouter(store, names),
    dashboardsRouter(database),
    rulesRouter({ database, checker, rehearser: parts.rehearser, checkSoon: parts.checkSoon }),
    incidentsRouter(database, checker, parts.alertingNews, {
      messagesOf: (id, most) => listMessages(database, most, id),
      eventsIn: (fromMs, toMs) => listEvents(database, fromMs, toMs),
    }),
    recipientsRouter({ database, dispatcher: parts.dispatcher, deliverer: parts.deliverer, box: parts.box }),
    quietRouter(parts.quiet, parts.alertingNews),
    alertingRouter(parts.alerting, parts.changeAlerting),
    briefingRouter(new BriefingDesk(store, database, () => listMachines(store, sources, names, Date.now()))),
    eventsRouter(eventParts),
    sourcesRouter(sources, parts.alertingNews),
    windowsCountersRouter(sources, database),
    tokensRouter(tokens, sources, live),
    transportRouter(transport),
    costsRouter(store, parts.costs),
    conditionRouter(parts.condition, parts.clock),
  ];
  const remembered = new RememberedAnswers();
  app.disable("x-powered-by");
  const { proxies, kind } = transport.view(Date.now());
  app.set("trust proxy", proxies.length > 0 ? proxies : false);
  app.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          defaultSrc: ["'none'"],
          scriptSrc: ["'self'"],
          styleSrc: ["'self'"],
          fontSrc: ["'self'"],
          imgSrc: ["'self'", "data:"],
          connectSrc: ["'self'"],
          workerSrc: ["'self'"],
          baseUri: ["'none'"],
          formAction: ["'none'"],
          frameAncestors: ["'none'"],
        },
      },
      // a browser that does not believe the certificate takes no notice of it (RFC 6797 §8.1): nobody is locked out
      strictTransportSecurity: kind !== "plain",
      referrerPolicy: { policy: "same-origin" },
    }),
  );
  app.use(answeredNames(() => ownNames(parts.transport.names)));
  app.use("/api", (_request, response, next) => {
    response.setHeader("Cache-Control", "no-store");
    next();
  });
  app.use(otlpRouter(tokens, sources, parts.bodies));
  app.use(
    collectorRouter(tokens, sources, () => trustFor(transport), originOf),
    authorityRouter(transport),
  );
  app.post(
    "/api/import",
    importHandler(store, () => sources.limits, parts.commandToken),
  );
  app.use("/api", pushRouter(tokens, sources, parts.bodies));
  app.use(windowsListRouter(tokens, database));
  app.post("/api/events", sentEvents(eventParts));
  app.use("/api", calendarRouter(parts.quiet, tokens));
  app.use("/api", letTokensIn(tokens), sameOrigin);
  app.use("/api", open);
  // Before it is known who asks, a body is a name and a password.
  app.use(["/api/setup", "/api/session"], express.json({ limit: "8kb" }), storableBody);
  app.use("/api", people);
  app.use("/api", signedIn(database, parts.clock.actingMs));
  app.use("/api/dashboards", express.json({ limit: "4mb" })); // tables of one's own are kept with them
  app.use("/api", express.json({ limit: "1mb" }), storableBody);
  app.use("/api", remembered.handler);
  app.get(`/api${livePath}`, live.handler);
  app.use("/api", inside);
  const described = openapiOf([...open, people, ...inside].flatMap(servedOf), version);
  app.get("/api/openapi.json", (_request, response) => {
    response.json(described);
  });
  app.use("/api", notThere);

  const web = join(projectRoot, "dist/web");
  app.use(
    "/assets",
    express.static(join(web, "assets"), { immutable: true, maxAge: "1y", index: false, fallthrough: false }),
  );
  app.use(express.static(web, { index: false, maxAge: 0 }));
  app.get("/*path", (_request, response) => {
    response.setHeader("Cache-Control", "no-cache");
    response.sendFile(join(web, "index.html"));
  });
  app.get("/", (_request, response) => {
    response.setHeader("Cache-Control", "no-cache");
    response.sendFile(join(web, "index.html"));
  });
  app.use(notThere);
  app.use(problemHandler(parts.log, remembered));
  return app;
}

/**
 * How the one who asks reaches this server; what stands in a Host header goes into texts that are pasted into a shell.
 */
function originOf(request: Request): string {
  const host = request.host ?? "";
  // A proxy may say any word for the protocol.
  return `${request.protocol === "http" ? "http" : "https"}://${/^[\w.-]+(:\d+)?$|^\[[0-9a-fA-F:]+\](:\d+)?$/.test(host) ? host : "localhost"}`;
}

/** Whoever believes the system's issuers believes a given certificate; the house's own is shown by its authority. */
function trustFor(transport: Transport): CollectorTrust {
  const { kind, authorityPem, pin } = transport.view(Date.now());
  return { pin: kind === "house" ? (pin ?? "") : "", authorityPem: kind === "house" ? (authorityPem ?? "") : "" };
}
