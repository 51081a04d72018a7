import { basePathOf } from "../http/asked-below.ts";
import type { Request } from "express";

/** Where somebody stands before the door: the page's origin, its host without a port, and where Nubrel begins there. */
export interface Site {
  readonly origin: string;
  readonly host: string;
  /** Its origin with the path below which it is asked. */
  readonly root: string;
}

/** As the browser sees the page that asks; over a proxy, as that says. */
export function siteOf(request: Request): Site {
  const origin = `${request.secure ? "https" : "http"}://${request.host ?? ""}`;
  return { origin, host: request.hostname ?? "", root: origin + basePathOf(request) };
}
