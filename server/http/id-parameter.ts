import type { Request } from "express";
import { Problem } from "./problem.ts";

/** The number in an address. Throws a Problem where it is none. */
export function idParameter(request: Pick<Request<object>, "params">, what: string, name = "id"): number {
  const text = String((request.params as Readonly<Record<string, string>>)[name]);
  const id = Number(text);
  if (!Number.isInteger(id) || id < 1 || id > 0x7fffffff)
    throw new Problem(404, "not-found", `There is no ${what} ${text}; it may have been removed meanwhile.`);
  return id;
}
