import type { RequestHandler } from "express";
import type { Route } from "../../core/api/route.ts";
import { accessTo, needsProof } from "../../core/api/who-may.ts";
import { assertMay, assertProven } from "./assert-may.ts";
import { noteRefused } from "./witnessed.ts";

/**
 * Lets pass who may ask a route, and has a person show again who they are where it is of that kind; who is refused is
 * written down. Throws an Error for a route that stands in no row of the table (core/api/who-may.ts).
 */
export function allowed(route: Pick<Route, "method" | "path">): RequestHandler {
  const access = accessTo(route);
  const asks = needsProof(route);
  return async (request, _response, next) => {
    try {
      assertMay(request, access);
      if (asks) assertProven(request);
    } catch (error) {
      await noteRefused(request, route, error);
      throw error;
    }
    next();
  };
}
