import type { Request, Response, Router } from "express";
import type Joi from "joi";
import type { ParamsOf, Route } from "../../core/api/route.ts";

/** A question as it came, checked. */
export interface Asked<R, Body, Query> {
  readonly params: ParamsOf<R>;
  readonly body: Body;
  readonly query: Query;
  readonly request: Request;
  readonly response: Response;
}

/** A route as it is served, for what describes all of them. */
export interface Served {
  /** Answers a question that is checked already. */
  readonly handler: (asked: Asked<Route, unknown, unknown>) => unknown;
  readonly route: Route;
  readonly body: Joi.Schema | undefined;
  readonly query: Joi.Schema | undefined;
}

const servedBy = new WeakMap<Router, Served[]>();

export function noteServed(router: Router, served: Served): void {
  servedBy.set(router, [...servedOf(router), served]);
}

/** What a router serves, in the order in which it is looked through. */
export const servedOf = (router: Router): readonly Served[] => servedBy.get(router) ?? [];
