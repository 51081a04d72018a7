import type { Request, RequestHandler } from "express";

/** What a route did, or refused to do. */
export interface Witnessed {
  /** The method and path of the route. */
  readonly did: string;
  readonly subject: string;
  /** Whose name was given, where nobody knows who asks. */
  readonly named?: string;
  readonly before?: unknown;
  readonly after?: unknown;
  /** "done", or why it was refused. */
  readonly outcome: string;
}

/** Writes down who did what. Never throws: what was done is done. */
export interface Witness {
  note(request: Request, witnessed: Witnessed): Promise<void>;
}

const witnesses = new WeakMap<Request, Witness>();

/** Has routes that come after be witnessed. */
export function witnessedBy(witness: Witness): RequestHandler {
  return (request, _response, next) => {
    witnesses.set(request, witness);
    next();
  };
}

export const witnessOf = (request: Request): Witness | undefined => witnesses.get(request);

const entered = new WeakMap<Request, string>();

/** Notes who came in by this very request. */
export function noteEntered(request: Request, name: string): void {
  entered.set(request, name);
}

export const enteredAs = (request: Request): string | undefined => entered.get(request);
