import { pageFields, tellNext } from "../http/next-page.ts";
import { Router } from "express";
import Joi from "joi";
import type { AuditQuery, Deed } from "../../core/api/audit.ts";
import * as routes from "../../core/api/audit.ts";
import { namedRoutes } from "../../core/api/who-may.ts";
import { deedsBesides, deedWords, refusedWords } from "../../core/audit/deed-words.ts";
import type { Database } from "../db/pool.ts";
import { drained } from "../http/drained.ts";
import { sent, serve } from "../http/serve.ts";
import { type DeedRow, listDeedRows } from "./audit-rows.ts";

const fields = {
  from: Joi.number().min(0),
  to: Joi.number().min(0),
  who: Joi.string().trim().max(200),
  text: Joi.string().trim().max(200),
  refused: Joi.boolean(),
};
const filterSchema = Joi.object<AuditQuery>(fields);
const querySchema = Joi.object<AuditQuery & { most: number; before?: number }>({ ...fields, ...pageFields(200, 1000) });
const perPage = 1000;

/** Who did what, for owners. */
export function auditRouter(database: Database): Router {
  const router = Router();
  serve(router, routes.listDeeds, { query: querySchema }, async ({ query, request, response }) => {
    const rows = await listDeedRows(database, query, fitting(query.text));
    tellNext(request, response, rows, query.most);
    return rows.map(told);
  });

  serve(router, routes.getDeedsFile, { query: filterSchema }, async ({ query, response }) => {
    response.type("application/x-ndjson").attachment("who-did-what.jsonl");
    const dids = fitting(query.text);
    for (let before: number | undefined; ; ) {
      const rows = await listDeedRows(database, { ...query, ...(before && { before }), most: perPage }, dids);
      const text = rows.map((row) => `${JSON.stringify(told(row))}\n`).join("");
      if (!response.write(text)) await drained(response);
      if (rows.length < perPage || response.destroyed) break;
      before = rows.at(-1)?.id;
    }
    response.end();
    return sent;
  });
  return router;
}

const told = (row: DeedRow): Deed => ({
  ...row,
  words: row.outcome === "done" ? deedWords(row.did) : refusedWords(row.did),
});

/** Routes whose words hold a text. */
const fitting = (text: string | undefined): readonly string[] =>
  text === undefined
    ? []
    : [...namedRoutes, ...deedsBesides].filter((did) => deedWords(did).includes(text.toLowerCase()));
