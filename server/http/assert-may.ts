import type { Request } from "express";
import { type Access, mayAsk, whoMay } from "../../core/api/who-may.ts";
import { callerOf, isToken, personOf, scopeOfPersons } from "./asker.ts";
import { Problem } from "./problem.ts";

const tokens: readonly string[] = ["write", "read", "manage", "calendar", "feed"];

/** Lets pass who may ask what is asked so (core/api/who-may.ts). Throws a Problem for everybody else: 401 or 403. */
export function assertMay(request: Request, access: Access): void {
  const scope = scopeOfPersons(request);
  const isBeyondScope = scope !== undefined && !mayAsk(scope, access);
  const caller = isBeyondScope ? scope : callerOf(request);
  if (mayAsk(caller, access)) return;
  if (caller === "nobody")
    throw new Problem(401, "not-signed-in", "Sign in first; a session ends after seven days without use.");
  if (caller === "link")
    throw new Problem(403, "not-on-this-link", "This link shows what stands on one dashboard, and nothing else.");
  if (access === "for oneself")
    throw new Problem(401, "not-signed-in", "A token is no person; this is for people who are signed in.");
  if (tokens.includes(caller)) {
    const needed = whoMay(access).filter((one) => tokens.includes(one));
    const words =
      needed.length === 0
        ? "this is for people who are signed in."
        : `this needs one that may ${needed.map((one) => `\`${one}\``).join(" or ")}.`;
    throw new Problem(403, "this-token-may-not-do-that", `It may only \`${caller}\`; ${words}`);
  }
  if (caller === "held viewer" && mayAsk("viewer", access))
    throw new Problem(
      403,
      "not-for-what-you-are-held-to",
      "You see some machines or dashboards only, and this shows all of them. An owner can change that under People.",
    );
  throw new Problem(
    403,
    "you-may-not-do-this",
    `You are ${caller === "keeper" ? "a keeper" : "a viewer"} here. ${access === "guard" || access === "run" ? "This is for owners." : "This is for keepers and owners."}`,
  );
}

/** Throws a Problem where a person has not shown lately who they are. */
export function assertProven(request: Request): void {
  if (isToken(request) || personOf(request).isProven) return;
  throw new Problem(
    403,
    "show-again-who-you-are",
    "This makes or shows a secret, or lets somebody in. Give your password again; it holds for ten minutes.",
    { asks: "proof" },
  );
}
