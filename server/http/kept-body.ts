import type { Request } from "express";

/** Bodies that were read by somebody who then left the request to another. */
const kept = new WeakMap<Request, Buffer>();

/** Keeps a body as it came, packed as it was, for whoever answers the request. */
export function keepBody(request: Request, body: Buffer): void {
  kept.set(request, body);
}

/** The body of a request that was read already; undefined where it is still to be read from the request. */
export const keptBody = (request: Request): Buffer | undefined => kept.get(request);
