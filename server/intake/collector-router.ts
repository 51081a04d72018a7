import { readFileSync } from "node:fs";
import { join } from "node:path";
import { type Request, Router } from "express";
import type { Tokens } from "../people/tokens.ts";
import { version } from "../version.ts";
import { projectRoot } from "../project-root.ts";
import type { Sources } from "../sources/sources.ts";
import { bearerOf, writeToken } from "../people/bearer.ts";
import { Problem } from "../http/problem.ts";

const files = { linux: "collector/nubrel-collector.sh", windows: "collector/nubrel-collector.bat" } as const;

/** What a collector is to believe of this server's certificate; empty where the system's issuers do. */
export interface CollectorTrust {
  /** Of the public key, as curl wants it: sha256//… in base64. */
  readonly pin: string;
  readonly authorityPem: string;
}

/**
 * The collectors, filled with this server's address, the token that asks for them, and what to believe of its
 * certificate.
 */
export function collectorRouter(
  tokens: Tokens,
  sources: Sources,
  trust: () => CollectorTrust,
  origin: (request: Request) => string,
): Router {
  const router = Router();
  router.get("/collector/:system", async (request, response) => {
    const { system } = request.params;
    const file = Object.hasOwn(files, system) ? files[system as keyof typeof files] : undefined;
    if (!file) throw new Problem(404, "no-such-collector", `There are ${Object.keys(files).join(", ")}.`);
    const { sourceId } = await writeToken(tokens, request);
    const intervalMs = sources.find(sourceId)?.source.intervalMs ?? 15_000;
    const { pin, authorityPem } = trust();
    const filled: Readonly<Record<string, string>> = {
      ADDRESS: origin(request),
      TOKEN: bearerOf(request) as string,
      INTERVAL: String(Math.max(1, Math.round(intervalMs / 1000))),
      PIN: pin,
      VERSION: version,
      AUTHORITY: authorityPem.trim(),
    };
    const text = readFileSync(join(projectRoot, file), "utf8").replace(/@([A-Z]+)@/g, (whole, name: string) =>
      Object.hasOwn(filled, name) ? (filled[name] as string) : whole,
    );
    response.type("text/plain").setHeader("Cache-Control", "no-store");
    response.send(request.params.system === "windows" ? text.replace(/\r?\n/g, "\r\n") : text);
  });
  return router;
}
