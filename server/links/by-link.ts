import { createHash } from "node:crypto";
import type { Request, RequestHandler } from "express";
import { linkHeader } from "../../core/api/links.ts";
import { isOnDashboard } from "../../core/dashboards/reading-on.ts";
import { isWithinLink } from "../../core/dashboards/link-window.ts";
import type { ReadingDocument } from "../../core/reading/document.ts";
import type { Database } from "../db/pool.ts";
import { noteAsker } from "../http/asker.ts";
import { Problem } from "../http/problem.ts";
import { type OpenLink, openLinkOf } from "./link-rows.ts";

const links = new WeakMap<Request, OpenLink>();

export const hashOfSecret = (secret: string): Buffer => createHash("sha256").update(secret).digest();

/** Knows requests of pages that were opened by a link; a cookie beside it counts for nothing. */
export function letLinksIn(database: Database): RequestHandler {
  return async (request, _response, next) => {
    const secret = request.get(linkHeader);
    if (secret === undefined) return next();
    const link = await openLinkOf(database, hashOfSecret(secret));
    if (!link)
      throw new Problem(
        401,
        "this-link-opens-nothing",
        "It has ended, was revoked, or never was. Ask whoever sent it for another.",
      );
    links.set(request, link);
    noteAsker(request, { kind: "link", id: link.id, name: link.name });
    next();
  };
}

/** The link that a request comes by. Only behind `letLinksIn`. */
export function linkOf(request: Request): OpenLink | undefined {
  return links.get(request);
}

/** Throws a Problem where the one who asks came by a link that does not show a reading, or shows another time. */
export function assertShown(request: Request, reading: ReadingDocument): void {
  const link = linkOf(request);
  if (!link) return;
  const { document, tile, window } = link;
  if (!isOnDashboard(document, reading, tile ?? undefined))
    throw new Problem(
      403,
      "not-on-this-link",
      "This link shows one dashboard. What was asked for does not stand on it.",
    );
  if (!isWithinLink(window, reading.window, Date.now()))
    throw new Problem(403, "not-on-this-link", "This link shows another time than what was asked for.");
}
