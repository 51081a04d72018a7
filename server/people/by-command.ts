import type { Request } from "express";
import { Problem } from "../http/problem.ts";
import { sameToken } from "./same-token.ts";

/** Lets only bin/nubrel on this machine pass, by the token that the start command gave to both. `what` is taken by it: "Imports are". */
export function assertCommand(request: Request, token: string | undefined, what: string): void {
  const sent = /^Bearer (.+)$/.exec(request.headers.authorization ?? "")?.[1];
  if (token === undefined || sent === undefined || !sameToken(sent, token))
    throw new Problem(
      401,
      "not-let-in",
      `${what} taken from bin/nubrel on this machine, with the token of the start command.`,
    );
}
