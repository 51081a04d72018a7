import { readFileSync } from "node:fs";
import { join } from "node:path";
import { type RequestHandler, Router } from "express";
import expressStaticGzip from "express-static-gzip";

const yearSeconds = 365 * 86_400;
/** What opens pages while the server is away has to do with all of them, not only with those beside it. */
const shellWorker = /\/shell-worker-[\w-]+\.js(\.\w+)?$/;

/** The interface's files as they were packed when it was built; those of /assets carry their content in their name. */
export function interfaceFiles(folder: string, basePath = ""): Router {
  const router = Router();
  router.use(
    "/assets",
    expressStaticGzip(join(folder, "assets"), {
      enableBrotli: true,
      orderPreference: ["br", "gz"],
      index: false,
      serveStatic: {
        immutable: true,
        maxAge: yearSeconds * 1000,
        fallthrough: false,
        setHeaders: (response, path) => {
          if (shellWorker.test(path)) response.setHeader("Service-Worker-Allowed", `${basePath}/`);
        },
      },
    }),
  );
  router.use(
    expressStaticGzip(folder, {
      enableBrotli: true,
      orderPreference: ["br", "gz"],
      index: false,
      serveStatic: { maxAge: 0, index: false },
    }),
  );
  return router;
}

/** Pages that open without anybody's being signed in: there nobody asks who is. */
const forAnybody = /^\/(invitation|s)\//;
const asksWhoIs = /\s*<link rel="preload" href="[^"]*\/api\/me"[^>]*>/;

/**
 * The one page that all addresses of the interface have, however deep: what it names beside itself is named from the
 * path below which the server is asked, which it says to its script.
 */
export function interfacePage(folder: string, basePath = ""): RequestHandler {
  let page: string | undefined;
  return (request, response) => {
    page ??= readFileSync(join(folder, "index.html"), "utf8")
      .replace(/ (href|src)="\.\//g, ` $1="${basePath}/`)
      .replace("<html ", `<html data-base-path="${basePath}" `);
    response.setHeader("Cache-Control", "no-cache");
    response.type("html").send(forAnybody.test(request.path) ? page.replace(asksWhoIs, "") : page);
  };
}
