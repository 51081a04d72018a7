import type { Request, RequestHandler, Response } from "express";
import { askReading, askReadings } from "../../core/api/readings.ts";
import { tryRecipient } from "../../core/api/messages.ts";
import type { Route } from "../../core/api/route.ts";
import { trySource, walkSource } from "../../core/api/sources.ts";
import type { Slowness } from "./slowness.ts";

/** Requests that are not timed: readings are told as such, and the others wait for what is asked by them. */
const notTimed: ReadonlySet<string> = new Set([
  ...[askReading, askReadings, trySource, walkSource, tryRecipient].map(
    ({ method, path }: Pick<Route, "method" | "path">) => `${method} /api${path}`,
  ),
  "POST /api/profile",
  "POST /api/relay/work",
  "POST /api/import",
]);

/**
 * Times every request from when it has come whole until its answer begins: how fast a client sends and takes is not the
 * server's doing. What it was is told by its route, never by its address, in which secrets may stand.
 */
export function slowRequests(slowness: Slowness): RequestHandler {
  return (request, response, next) => {
    let sinceMs = performance.now();
    request.once("end", () => {
      sinceMs = performance.now();
    });
    onAnswer(response, () => {
      const name = routeOf(request);
      if (name !== undefined && !notTimed.has(name))
        slowness.note({ kind: "request", key: name, what: () => name }, performance.now() - sinceMs);
    });
    next();
  };
}

function onAnswer(response: Response, begins: () => void): void {
  const writeHead = response.writeHead;
  response.writeHead = ((...given: Parameters<typeof writeHead>) => {
    begins();
    response.writeHead = writeHead;
    return writeHead.apply(response, given);
  }) as typeof writeHead;
}

/** Undefined where no route took it: a file, or what another server answers. */
const routeOf = (request: Request): string | undefined => {
  const path = (request.route as { readonly path?: unknown } | undefined)?.path;
  return typeof path === "string" ? `${request.method} ${request.baseUrl}${path}` : undefined;
};
