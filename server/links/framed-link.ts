import type { RequestHandler } from "express";
import type { Database } from "../db/pool.ts";
import { hashOfSecret } from "./by-link.ts";
import { openLinkOf } from "./link-rows.ts";

/**
 * The page of a link may stand in a frame of a page of one's own where its origin was named (CSP level 3,
 * frame-ancestors); it is kept by no cache, and sends its address to nobody.
 */
export function framedLink(database: Database): RequestHandler {
  return async (request, response, next) => {
    const link = await openLinkOf(database, hashOfSecret(String(request.params["secret"]))).catch(() => undefined);
    response.setHeader("Referrer-Policy", "no-referrer");
    if (link && link.origins.length > 0) {
      const policy = String(response.getHeader("Content-Security-Policy"));
      const ancestors = `frame-ancestors ${link.origins.join(" ")}`;
      response.setHeader("Content-Security-Policy", policy.replace(/frame-ancestors [^;]*/, ancestors));
      response.removeHeader("X-Frame-Options");
    }
    next();
  };
}
