import type { Request } from "express";

/** Where somebody stands before the door: the page's origin, and its host without a port. */
export interface Site {
  readonly origin: string;
  readonly host: string;
}

/** As the browser sees the page that asks; over a proxy, as that says. */
export const siteOf = (request: Request): Site => ({
  origin: `${request.secure ? "https" : "http"}://${request.host ?? ""}`,
  host: request.hostname ?? "",
});
