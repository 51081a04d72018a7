import type { Request, Response } from "express";
import Joi from "joi";

/** The fields by which a list that grows is asked for in parts, with how many come where nothing is said. */
export const pageFields = (usual: number, most: number) => ({
  most: Joi.number().integer().min(1).max(most).default(usual),
  before: Joi.number().integer().min(1),
});

/**
 * Says where a list goes on (RFC 8288) where this part of it is full, by the number of its last row; the rest of the
 * question stays as it was.
 */
export function tellNext(
  request: Request,
  response: Response,
  rows: readonly { readonly id: number | string }[],
  most: number,
): void {
  const last = rows.at(-1);
  if (last === undefined || rows.length < most) return;
  const next = new URL(request.originalUrl, "http://nubrel.invalid");
  next.searchParams.set("before", String(last.id));
  response.setHeader("Link", `<${next.pathname}${next.search}>; rel="next"`);
}
