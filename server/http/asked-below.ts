import type { Request } from "express";

const pathOf = new WeakMap<Request, string>();

/** The path below which this server is asked, as it stands before every address; "" where it has a host of its own. */
export const basePathOf = (request: Request): string => pathOf.get(request) ?? "";

/** Notes below which path a request asked. */
export function noteBasePath(request: Request, basePath: string): void {
  pathOf.set(request, basePath);
}
