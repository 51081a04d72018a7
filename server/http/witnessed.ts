import type { Request, Router } from "express";
import type { Route } from "../../core/api/route.ts";
import { Problem } from "./problem.ts";
import { type Asked, type Served, servedOf } from "./served.ts";
import { enteredAs, witnessOf } from "./witness.ts";

const refusals: ReadonlySet<number> = new Set([401, 403, 429]);

/** Writes down that somebody was refused. */
export async function noteRefused(
  request: Request,
  route: Pick<Route, "method" | "path">,
  error: unknown,
  subject = "",
): Promise<void> {
  // Pages ask who one is before anybody is signed in.
  if (!(error instanceof Problem) || !refusals.has(error.status) || route.path === "/me") return;
  await witnessOf(request)?.note(request, {
    did: `${route.method} ${route.path}`,
    subject,
    ...nameIn(request),
    outcome: `refused: ${error.title}`,
  });
}

/** Who came in, or under which name somebody would have. */
const nameIn = (request: Request): { readonly named?: string } => {
  const name = enteredAs(request) ?? ((request.body ?? {}) as { name?: unknown }).name;
  return typeof name === "string" ? { named: name } : {};
};

/** Has a route do what it does, and writes down what was before and is after. */
export async function witnessed<R extends Route, Body, Query, Given>(
  router: Router,
  route: R,
  asked: Asked<R, Body, Query>,
  handler: (asked: Asked<R, Body, Query>) => Given | Promise<Given>,
): Promise<Given> {
  const { request, params } = asked;
  const witness = witnessOf(request);
  if (!witness) return await handler(asked);
  const subject = route.path.includes(":code") ? "" : Object.values(params).map(String).join(" ");
  const before = await stateBefore(router, route, asked as Asked<Route, unknown, unknown>);
  let given: Given;
  try {
    given = await handler(asked);
  } catch (error) {
    await noteRefused(request, route, error, subject);
    throw error;
  }
  const showsNothing = route.method === "DELETE" || route.method === "GET" || route.path.startsWith("/session");
  const after = showsNothing ? null : stateAfter(given, asked.body);
  await witness.note(request, {
    did: `${route.method} ${route.path}`,
    subject: subjectOf(subject, given, before),
    ...nameIn(request),
    before: isOfAnotherKind(before, after) ? null : before,
    after,
    outcome: "done",
  });
  return given;
}

/** Whether two states have nothing by the same name: what stands beside a thing is not what it was before. */
const isOfAnotherKind = (before: unknown, after: unknown): boolean =>
  isFields(before) && isFields(after) && !Object.keys(after).some((name) => Object.hasOwn(before, name));

/** What it was done to: its number and what people call it, as far as they are known. */
function subjectOf(inPath: string, given: unknown, before: unknown): string {
  const [thing] = [given, before].filter(isFields);
  if (!thing) return inPath;
  const document = isFields(thing["document"]) ? thing["document"] : {};
  const name = thing["name"] ?? thing["title"] ?? document["title"] ?? document["name"];
  const number = inPath || (typeof thing["id"] === "number" ? String(thing["id"]) : "");
  return number === "" || typeof name !== "string" || name === number ? number : `${number} ${name}`;
}

const isFields = (value: unknown): value is Record<string, unknown> =>
  typeof value === "object" && value !== null && !Array.isArray(value);

/** What is told of a change: the answer where it is the thing itself, otherwise what was asked for. */
function stateAfter(given: unknown, body: unknown): unknown {
  const isAnswer = Array.isArray(given) || (isFields(given) && !("isSent" in given));
  return isAnswer ? given : body;
}

/**
 * What a change is made to, as the same router shows it: by its own path or the nearest above that can be looked at,
 * from a list by its number. Null where nothing shows it.
 */
async function stateBefore(router: Router, route: Route, asked: Asked<Route, unknown, unknown>): Promise<unknown> {
  if (route.method === "GET") return null;
  const segments = route.path.split("/");
  for (let length = segments.length; length > 1; length--) {
    const path = segments.slice(0, length).join("/");
    const shown = servedOf(router).find(({ route: one }) => one.method === "GET" && one.path === path);
    if (!shown || shown.query) continue;
    const isItself = length === segments.length;
    // What is made was nothing before.
    if (isItself && route.method === "POST") return null;
    const all = await shownBy(shown, asked);
    if (!Array.isArray(all)) return all;
    if (isItself) return all;
    const { id } = asked.params as { id?: number };
    return (id !== undefined && all.find((one) => isFields(one) && one["id"] === id)) || null;
  }
  return null;
}

/** What is not there, or cannot be shown now, is told by the change itself. */
async function shownBy({ handler }: Served, asked: Asked<Route, unknown, unknown>): Promise<unknown> {
  try {
    return await handler({ ...asked, body: undefined, query: undefined });
  } catch (error) {
    if (error instanceof Problem) return null;
    throw error;
  }
}
