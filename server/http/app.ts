import { join } from "node:path";
import express, { type Express } from "express";
import helmet from "helmet";
import type { Logger } from "pino";
import type { CostsView, Health } from "../../core/api/views.ts";
import type { Database } from "../db/pool.ts";
import type { LiveHub } from "../live/live-hub.ts";
import { projectRoot } from "../project-root.ts";
import type { RuleChecker } from "../rules/rule-checker.ts";
import { pushRouter } from "../intake/push-router.ts";
import type { Tokens } from "../people/tokens.ts";
import type { MachineNames } from "../sources/machine-names.ts";
import type { Sources } from "../sources/sources.ts";
import type { Store } from "../store/store.ts";
import { letTokensIn } from "./bearer.ts";
import { sourcesRouter } from "./sources-router.ts";
import { tokensRouter } from "./tokens-router.ts";
import { costsRouter } from "./costs-router.ts";
import { importHandler } from "./import-handler.ts";
import { machinesRouter } from "./machines-router.ts";
import { peopleRouter } from "./people-router.ts";
import { notThere, problemHandler } from "./problem.ts";
import { readingsRouter } from "./readings-router.ts";
import { rulesRouter } from "./rules-router.ts";
import { sameOrigin, signedIn } from "./signed-in.ts";

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
  readonly health: () => Promise<Health>;
  readonly costs: () => Promise<CostsView>;
  /** Has the rules checked before their next turn. */
  readonly checkSoon: () => void;
}

/** The Express application: everything below /api needs a sign-in but health and set-up; all other paths are the interface. */
export function createApp(parts: AppParts): Express {
  const { database, store, checker, live, sources, names, tokens } = parts;
  const app = express();
  app.disable("x-powered-by");
  app.use(helmet({
    contentSecurityPolicy: {
      useDefaults: false,
      directives: { defaultSrc: ["'none'"], scriptSrc: ["'self'"], styleSrc: ["'self'"], fontSrc: ["'self'"], imgSrc: ["'self'", "data:"], connectSrc: ["'self'"], baseUri: ["'none'"], formAction: ["'none'"], frameAncestors: ["'none'"] },
    },
    strictTransportSecurity: false, // told by the server's own transport once it has a certificate
    referrerPolicy: { policy: "same-origin" },
  }));
  app.use("/api", (_request, response, next) => {
    response.setHeader("Cache-Control", "no-store");
    next();
  });
  app.post("/api/import", importHandler(store, parts.commandToken));
  app.use("/api", pushRouter(tokens, sources));
  app.use("/api", letTokensIn(tokens), sameOrigin, express.json({ limit: "1mb" }));
  app.get("/api/health", async (_request, response) => {
    const health = await parts.health();
    response.status(health.status === "ok" ? 200 : 503).json(health);
  });
  app.use("/api", peopleRouter(database, parts.setupCode));
  app.use("/api", signedIn(database));
  app.get("/api/live", live.handler);
  app.use("/api", machinesRouter(store, sources, names), sourcesRouter(sources), tokensRouter(tokens, sources), readingsRouter(store, names), rulesRouter(database, checker, parts.checkSoon), costsRouter(store, parts.costs));
  app.use("/api", notThere);

  const web = join(projectRoot, "dist/web");
  app.use("/assets", express.static(join(web, "assets"), { immutable: true, maxAge: "1y", index: false, fallthrough: false }));
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
  app.use(problemHandler(parts.log));
  return app;
}
