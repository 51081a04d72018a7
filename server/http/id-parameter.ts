import { problemTitles, type ProblemType } from "../../core/api/problem-types.ts";
import type { Request } from "express";
import { Problem } from "./problem.ts";

/** The number in an address. Throws a Problem where it is none. */
export function idParameter(request: Pick<Request<object>, "params">, what: string, name = "id"): number {
  const text = String((request.params as Readonly<Record<string, string>>)[name]);
  const id = Number(text);
  if (!Number.isInteger(id) || id < 1 || id > 0x7fffffff)
    throw new Problem(404, kindOf(what), `There is no ${what} ${text}; it may have been removed meanwhile.`);
  return id;
}

/** What is missing has a kind of its own, where it is of some kind that is told of elsewhere too. */
function kindOf(what: string): ProblemType {
  const type = `no-such-${what.replaceAll(" ", "-")}`;
  return Object.hasOwn(problemTitles, type) ? (type as ProblemType) : "not-found";
}
