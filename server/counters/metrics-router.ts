import { Router } from "express";
import Joi from "joi";
import * as routes from "../../core/api/counters.ts";
import { OpenMetricsWriter } from "../../core/formats/samples/open-metrics-samples.ts";
import { isLike } from "../../core/reading/where.ts";
import { Problem } from "../http/problem.ts";
import { sent, serve } from "../http/serve.ts";
import { sees, sightOf } from "../people/sight.ts";
import type { Store } from "../store/store.ts";

/** What is older is not how things stand. */
const freshMs = 300_000;
const mostSeries = 20_000;
const pattern = Joi.string().trim().min(1).max(200);
const metricsSchema = Joi.object<{ counter: readonly string[]; machine: string }>({
  counter: Joi.array().items(pattern).single().max(100).default(["nubrel.*"]),
  machine: pattern.default("*"),
});

/** How things stand now, for another program that gathers by asking (OpenMetrics 1.0, text). */
export function metricsRouter(store: Store): Router {
  const router = Router();
  serve(router, routes.getMetrics, { query: metricsSchema }, async ({ query, request, response }) => {
    const sight = sightOf(request);
    const wanted = store.series
      .all()
      .filter(
        ({ counter, tags }) =>
          sees(sight, tags["machine"]) &&
          isLike(tags["machine"] ?? "", query.machine) &&
          query.counter.some((like) => isLike(counter, like)),
      )
      .sort((a, b) => (a.counter < b.counter ? -1 : a.counter > b.counter ? 1 : a.id - b.id));
    if (wanted.length > mostSeries)
      throw new Problem(
        422,
        "too-many-at-once",
        `This would be ${wanted.length} series; ${mostSeries} are told at once. Name counters or a machine, such as ?counter=system.cpu*&machine=vault.`,
      );
    const nowMs = Date.now();
    const columns = await store.read(
      wanted.map(({ id }) => id),
      nowMs - freshMs,
      nowMs + 1,
    );
    const writer = new OpenMetricsWriter();
    const lines = wanted.map((series, i) => {
      const column = columns[i];
      if (!column || column.timeMs.length === 0) return "";
      return writer.series(series, { timeMs: column.timeMs.slice(-1), value: column.value.slice(-1) });
    });
    response.setHeader("Content-Type", "application/openmetrics-text; version=1.0.0; charset=utf-8");
    response.send(writer.head() + lines.join("") + writer.end());
    return sent;
  });
  return router;
}
