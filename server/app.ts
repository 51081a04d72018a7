import { below } from "./http/below.ts";
import { packed } from "./http/packed.ts";
import { interfaceFiles, interfacePage } from "./http/interface-files.ts";
import { join } from "node:path";
import express, { type Express, type RequestHandler } from "express";
import helmet from "helmet";
import type { Logger } from "pino";
import type { RoutesOfServer } from "./routes.ts";
import type { ServerClock } from "./clock/server-clock.ts";
import type { Database } from "./db/pool.ts";
import type { LiveHub } from "./live/live-hub.ts";
import { slowRequests } from "./slowness/slow-requests.ts";
import type { Slowness } from "./slowness/slowness.ts";
import { projectRoot } from "./project-root.ts";
import type { MachineNames } from "./machines/machine-names.ts";
import type { Tokens } from "./people/tokens.ts";
import type { Transport } from "./transport/transport.ts";
import { openapiOf } from "./http/openapi.ts";
import { servedOf } from "./http/served.ts";
import { livePath } from "../core/api/live.ts";
import { version } from "./version.ts";
import { ownNames } from "./transport/house.ts";
import { Audit } from "./audit/audit.ts";
import { allowed } from "./http/allowed.ts";
import { assertNamed } from "./http/assert-named.ts";
import { answeredNames } from "./http/answered-names.ts";
import { letTokensIn } from "./people/bearer.ts";
import { notThere, problemHandler } from "./http/problem.ts";
import { RememberedAnswers } from "./http/remembered-answers.ts";
import { takesHandedOn } from "./http/from-beside.ts";
import { framedLink } from "./links/framed-link.ts";
import { letLinksIn } from "./links/by-link.ts";
import { noteSight } from "./people/sight.ts";
import { sameOrigin, signedIn } from "./people/signed-in.ts";
import { witnessedBy } from "./http/witness.ts";
import { storableBody } from "./http/storable-body.ts";

export interface AppParts {
  readonly database: Database;
  readonly clock: ServerClock;
  readonly tokens: Tokens;
  readonly transport: Transport;
  readonly live: LiveHub;
  readonly names: MachineNames;
  readonly log: Logger;
  readonly slowness: Slowness;
  /** By which a named proxy says who comes. */
  readonly signInHeader: string | undefined;
  /** By which this server, where it leads, knows what another hands on. */
  readonly pass?: string | undefined;
  /** Where this server stands beside the one that leads: what takes and hands on what is not answered here. */
  readonly beforeAll?: readonly RequestHandler[];
}

/**
 * The Express application: what stands before every route, and the routes, mounted by whom they answer; all paths
 * outside /api are the interface.
 */
export function createApp(routes: RoutesOfServer, parts: AppParts): Express {
  const { database, clock, tokens, transport, live, names, log, signInHeader, pass, beforeAll = [], slowness } = parts;
  const app = express();
  const remembered = new RememberedAnswers();
  app.disable("x-powered-by");
  const { proxies, kind } = transport.view(Date.now());
  app.set("trust proxy", proxies.length > 0 ? proxies : false);
  app.use(slowRequests(slowness), headers(kind !== "plain"));
  if (pass !== undefined) app.use(takesHandedOn(pass));
  app.use(below(transport.basePath));
  // Programs that gather by asking look there.
  app.use((request, _response, next) => {
    if (request.path === "/metrics") request.url = `/api${request.url}`;
    next();
  });
  app.use(answeredNames(() => ownNames(transport.names)));
  if (beforeAll.length > 0) app.use(...beforeAll);
  app.use("/api", packed, (_request, response, next) => {
    response.setHeader("Cache-Control", "no-store");
    next();
  });
  app.use(routes.senders);
  app.use("/api", witnessedBy(new Audit(database, log)), letTokensIn(tokens), letLinksIn(database), sameOrigin);
  app.use("/api", [...routes.open]);
  // Before it is known who asks, a body is a name and a password.
  app.use(["/api/setup", "/api/session", "/api/invitations"], express.json({ limit: "8kb" }), storableBody);
  app.use("/api", [...routes.people]);
  app.use("/api", signedIn(database, clock.actingMs, signInHeader), noteSight(names));
  app.use("/api/dashboards", express.json({ limit: "4mb" })); // tables of one's own are kept with them
  app.use("/api", express.json({ limit: "1mb" }), storableBody);
  app.use("/api", remembered.handler);
  app.get(`/api${livePath}`, allowed({ method: "GET", path: livePath }), live.handler);
  app.use("/api", [...routes.inside]);
  const served = [...routes.open, ...routes.people, ...routes.inside].flatMap(servedOf);
  let described: ReturnType<typeof openapiOf> | undefined;
  app.get("/api/openapi.json", allowed({ method: "GET", path: "/openapi.json" }), async (_request, response) => {
    response.json(await (described ??= openapiOf(served, version, transport.basePath)));
  });
  app.use("/api", notThere);

  const web = join(projectRoot, "dist/web");
  const page = interfacePage(web, transport.basePath);
  app.use(interfaceFiles(web, transport.basePath));
  app.get("/s/:secret", framedLink(database));
  app.get("/*path", page);
  app.get("/", page);
  app.use(notThere);
  app.use(problemHandler(log, remembered));
  assertNamed(app);
  return app;
}

/** What browsers are told of every page and answer. */
const headers = (isSecure: boolean): RequestHandler =>
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
        manifestSrc: ["'self'"],
        baseUri: ["'none'"],
        formAction: ["'none'"],
        frameAncestors: ["'none'"],
      },
    },
    // a browser that does not believe the certificate takes no notice of it (RFC 6797 §8.1): nobody is locked out
    strictTransportSecurity: isSecure,
    referrerPolicy: { policy: "same-origin" },
  });
