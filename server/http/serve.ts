import type { RequestHandler, Router } from "express";
import type Joi from "joi";
import { type AnswerOf, numbersInPaths, type ParamsOf, type Route } from "../../core/api/route.ts";
import { isWitnessed } from "../../core/api/who-may.ts";
import { allowed } from "./allowed.ts";
import { witnessed } from "./witnessed.ts";
import { checked } from "./checked.ts";
import { type Asked, noteServed, type Served } from "./served.ts";
import { idParameter } from "./id-parameter.ts";

/** What a route takes. */
export interface Checks<Body, Query> {
  readonly body?: Joi.Schema<Body>;
  readonly query?: Joi.Schema<Query>;
  /** Finds out who asks, where nothing before the router has. */
  readonly known?: RequestHandler;
}

/** A handler answers this where it has written the answer itself, such as line by line. */
export const sent = { isSent: true } as const;

/** What a handler gives: nothing where the route answers nothing. */
// biome-ignore lint/suspicious/noConfusingVoidType: it stands for what a handler returns
type Given<R> = AnswerOf<R> extends undefined ? void : AnswerOf<R>;

/**
 * Has a router answer a route: who asks is held against the table of who may; parameters, body and query are checked
 * before, and what the handler gives is the answer. Throws Problem for what does not fit, and an Error for a route that
 * stands in no row of that table.
 */
export function serve<R extends Route, Body = undefined, Query = undefined>(
  router: Router,
  route: R,
  checks: Checks<Body, Query>,
  handler: (asked: Asked<R, Body, Query>) => Given<R> | typeof sent | Promise<Given<R> | typeof sent>,
): void {
  noteServed(router, { route, body: checks.body, query: checks.query, handler: handler as Served["handler"] });
  const isNoted = isWitnessed(route);
  const may = allowed(route);
  const names = [...route.path.matchAll(/:(\w+)/g)].map(([, name]) => name as string);
  const answer: RequestHandler = async (request, response) => {
    const params = Object.fromEntries(
      names.map((name) => [
        name,
        isNumbered(name) ? idParameter(request, thingOf(route.path, name), name) : request.params[name],
      ]),
    ) as ParamsOf<R>;
    const body = (checks.body ? checked(checks.body, request.body) : undefined) as Body;
    const query = (checks.query ? checked(checks.query, request.query) : undefined) as Query;
    const asked = { params, body, query, request, response };
    const given = isNoted ? await witnessed(router, route, asked, handler) : await handler(asked);
    if (given === sent) return;
    if (route.status === 204) response.status(204).end();
    else response.status(route.status).json(given);
  };
  const handlers = checks.known ? [checks.known, may, answer] : [may, answer];
  router[route.method.toLowerCase() as Lowercase<Route["method"]>](route.path, ...handlers);
}

const isNumbered = (name: string): boolean => (numbersInPaths as readonly string[]).includes(name);

/** What a number in a path is of, in words: a "rule" in "/rules/:id". */
function thingOf(path: string, name: string): string {
  const before = new RegExp(`/([\\w-]+)/:${name}`).exec(path)?.[1] ?? "";
  return (before.endsWith("ies") ? before : before.replace(/s$/, "")).replaceAll("-", " ");
}
