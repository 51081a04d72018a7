import * as routes from "../../core/api/windows-counters.ts";
import { serve } from "../http/serve.ts";
import { createHash } from "node:crypto";
import { Router } from "express";
import Joi from "joi";
import { tableText, westernBytes } from "../../core/formats/csv/table-text.ts";
import {
  type CounterChoice,
  counterList,
  readCounterList,
  defaultChoice,
} from "../../core/formats/windows/counter-choice.ts";
import type { Database } from "../db/pool.ts";
import { wholeBody } from "./request-body.ts";
import type { Tokens } from "../people/tokens.ts";
import type { Sources } from "../sources/sources.ts";
import { chooseCounters, keepToldCounters, readWindowsCounters } from "../sources/windows-counter-rows.ts";
import { writeToken } from "../people/bearer.ts";
import { Problem } from "../http/problem.ts";

const mostBytes = 16 * 1_048_576;
// What stands between backslashes in a path; nothing in it can end the line that it is written to.
const name = Joi.string()
  .max(500)
  .pattern(/^[^\\\r\n\0]+$/);
const choiceSchema = Joi.object<{ chosen: CounterChoice | null }>({
  chosen: Joi.object({
    picks: Joi.array()
      .items(
        Joi.object({
          category: name.required(),
          counter: name.required(),
          instances: Joi.alternatives(Joi.valid("all"), Joi.array().items(name).min(1).max(1000)).required(),
        }),
      )
      .min(1)
      .max(2000)
      .required(),
    machines: Joi.array()
      .items(
        Joi.string()
          .trim()
          .max(200)
          .pattern(/^[\p{L}\p{N}._-]+$/u),
      )
      .unique()
      .max(50)
      .default([])
      .messages({ "string.pattern.base": "{{#label}} is the name of a machine: letters, figures, . _ -" }),
  })
    .allow(null)
    .required(),
});

/** For the batch file of a Windows machine: it says once what it can count, and fetches what it is to count. */
export function windowsListRouter(tokens: Tokens, database: Database): Router {
  const router = Router();
  router.put("/api/windows-counters", async (request, response) => {
    const { sourceId } = await writeToken(tokens, request);
    const { text, encoding } = tableText(await wholeBody(request, mostBytes));
    const told = readCounterList(text);
    if (told.length === 0)
      throw new Problem(
        422,
        "no-counters-in-it",
        "No line is a counter's path, as typeperf -qx writes them: \\Category(instance)\\Counter.",
      );
    await keepToldCounters(database, sourceId, told, encoding);
    response.json({ categories: told.length });
  });
  router.get("/api/windows-counters", async (request, response) => {
    const { sourceId } = await writeToken(tokens, request);
    const counters = await readWindowsCounters(database, sourceId);
    if (!counters)
      throw new Problem(
        404,
        "nothing-told-yet",
        "This machine has not said what it can count: PUT what typeperf -qx writes first.",
      );
    const list = counterList(counters.chosen ?? defaultChoice(counters.told), counters.told);
    const bytes =
      (counters.encoding.startsWith("utf-16") ? undefined : westernBytes(list)) ??
      Buffer.from(`\ufeff${list}`, "utf16le");
    response.setHeader("ETag", `"${createHash("sha256").update(bytes).digest("hex").slice(0, 16)}"`);
    response.type("application/octet-stream").send(Buffer.from(bytes));
  });
  return router;
}

/** For people: what there is, and what is chosen. */
export function windowsCountersRouter(sources: Sources, database: Database): Router {
  const router = Router();
  const found = (id: number): number => {
    const run = sources.find(id);
    if (!run) throw new Problem(404, "no-such-source", "It may have been removed.");
    return run.source.id;
  };
  serve(router, routes.getWindowsCounters, {}, async ({ params }) => {
    const counters = await readWindowsCounters(database, found(params.id));
    return counters
      ? {
          told: counters.told,
          toldAtMs: counters.toldAt.getTime(),
          chosen: counters.chosen,
          byDefault: defaultChoice(counters.told),
        }
      : null;
  });
  serve(router, routes.chooseWindowsCounters, { body: choiceSchema }, async ({ params, body: { chosen } }) => {
    if (!(await chooseCounters(database, found(params.id), chosen)))
      throw new Problem(
        409,
        "nothing-told-yet",
        "This machine has not said what it can count: run its batch file once.",
      );
  });
  return router;
}
