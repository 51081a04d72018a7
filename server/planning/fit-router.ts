import { hostSpeeds } from "./fit/host-speeds.ts";
import type { Sources } from "../sources/sources.ts";
import { type Request, Router } from "express";
import Joi from "joi";
import { setTimeout as delay } from "node:timers/promises";
import * as routes from "../../core/api/fit.ts";
import type { FitFound, FitProblem } from "../../core/fit/fit-problem.ts";
import type { Database } from "../db/pool.ts";
import { Problem, problemBody } from "../http/problem.ts";
import { sent, serve } from "../http/serve.ts";
import { signalOf } from "../http/signal-of.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import { windowSchema } from "../reading/reading-schema.ts";
import type { Store } from "../store/store.ts";
import type { Executor } from "../work/executor.ts";
import { CancelledError } from "../work/work-kind.ts";
import { answerOf, asShare, problemOf } from "./fit/fit-answer.ts";
import { readLoads } from "./fit/read-loads.ts";
import { savingsOf } from "./fit/savings.ts";
import { searchFitKind, watched } from "./fit/search-work.ts";
import { readPlanningSettings, readTariffs } from "./planning-rows.ts";

/** So long is searched, and so often told how far it is. */
const searchMs = 3000;
const toldEveryMs = 200;
const mostDays = 92;
const dayMs = 86_400_000;

const name = Joi.string().min(1).max(400);
const fitSchema = Joi.object<routes.FitBody>({
  window: windowSchema
    .required()
    .custom((window: { from: number; to: number }, helpers) =>
      window.to - window.from > mostDays * dayMs ? helpers.error("long") : window,
    )
    .messages({ long: `"window" may be ${mostDays} days long at most` }),
  percentile: Joi.number().greater(0).max(100).default(0.95),
  headroom: Joi.number().min(0).less(100).default(0.2),
  hosts: Joi.array()
    .items(
      name,
      Joi.object({
        machine: name.required(),
        processors: Joi.number().positive().max(1e6).required(),
        memory: Joi.number().positive().max(1e18).required(),
        speed: Joi.number().min(0.01).max(100),
        diskOperations: Joi.number().positive().max(1e9),
      }),
    )
    .min(1)
    .max(200),
  keep: Joi.array()
    .items(name, Joi.object({ guest: name.required(), on: Joi.array().items(name).min(1).max(200).required() }))
    .max(2000),
  apart: Joi.array().items(Joi.array().items(name).min(2).max(200)).max(200),
});

const measureSchema = Joi.object<{ readonly machine: string }>({ machine: name.required() });

interface FitRouterParts {
  readonly database: Database;
  readonly store: Store;
  readonly names: MachineNames;
  readonly pool: Executor;
  readonly sources: Sources;
}

/** Whether guests would fit on fewer machines: told while it is searched, and answered last. */
export function fitRouter(parts: FitRouterParts): Router {
  const router = Router();
  serve(router, routes.askFit, { body: fitSchema }, async ({ body, request, response }) => {
    const signal = signalOf(response);
    const isStreamed = !wantsOne(request);
    if (!isStreamed) {
      response.json(await fitOf(parts, body, () => {}, signal));
      return sent;
    }
    response.type("application/x-ndjson").setHeader("X-Accel-Buffering", "no");
    const say = (line: routes.FitLine) => {
      if (!signal.aborted) response.write(`${JSON.stringify(line)}\n`);
    };
    try {
      say(await fitOf(parts, body, say, signal));
    } catch (error) {
      if (!(error instanceof CancelledError)) say({ problem: problemBody(request, error) });
    }
    response.end();
    return sent;
  });
  serve(router, routes.measureSpeed, { body: measureSchema }, ({ body: { machine } }) => {
    if (!hasCollector(parts.sources, machine))
      throw new Problem(
        409,
        "nothing-there-can-measure",
        `${machine} has no collector of Nubrel's for Linux, which measures it. Say its speed yourself.`,
      );
    parts.sources.speedWishes.ask(machine, parts.store.nowMs());
    return { machine };
  });
  return router;
}

const hasCollector = (sources: Sources, machine: string): boolean =>
  // A collector that sends the tables of the system's own tool is no program of ours, and measures nothing.
  sources.all().some((run) => run.source.kind === "collector" && run.source.machine === machine && !run.sendsTables);

/** Whoever takes JSON alone gets one document. */
const wantsOne = (request: Request): boolean => {
  const accept = request.headers.accept ?? "";
  return accept.includes("application/json") && !accept.includes("*/*") && !accept.includes("ndjson");
};

async function fitOf(
  parts: FitRouterParts,
  body: routes.FitBody,
  say: (line: routes.FitLine) => void,
  signal: AbortSignal,
): Promise<routes.FitAnswer> {
  const { database, store, names } = parts;
  const [tariffs, settings] = [await readTariffs(database), await readPlanningSettings(database)];
  const how = { percentile: asShare(body.percentile), headroom: asShare(body.headroom) };
  const speedOf = await hostSpeeds(store, settings);
  const loads = await readLoads(
    store,
    body.window,
    body.hosts,
    {
      speedOf: (machine) => speedOf(machine).factor,
      diskOperationsOf: (machine) => settings.diskOperations[machine] ?? Number.POSITIVE_INFINITY,
    },
    signal,
  );
  const problem = problemOf(loads, body, how);
  const found = await searched(parts.pool, problem, say, signal);
  const answer = answerOf(loads, problem, found, how);
  const isSupplied = new Set((body.hosts ?? []).flatMap((host) => (typeof host === "string" ? [] : [host.machine])));
  return {
    ...answer,
    hosts: answer.hosts.map((host) => ({
      ...host,
      speed: isSupplied.has(host.machine) ? null : speedOf(host.machine),
      canMeasure: hasCollector(parts.sources, host.machine),
    })),
    saves: await savingsOf({ store, names, tariffs, settings }, body.window, answer.canBeOff, signal),
  };
}

/** Searches on a thread of its own, and tells how far it is. */
async function searched(
  pool: Executor,
  problem: FitProblem,
  say: (line: routes.FitLine) => void,
  signal: AbortSignal,
): Promise<FitFound> {
  const shared = new Int32Array(new SharedArrayBuffer(4 * watched.length));
  const stop = () => Atomics.store(shared, watched.stop, 1);
  signal.addEventListener("abort", stop);
  const over = new AbortController();
  const telling = (async () => {
    while (!over.signal.aborted) {
      await delay(toldEveryMs, undefined, { signal: over.signal }).catch(() => {});
      const at = (place: number) => Atomics.load(shared, place);
      if (!over.signal.aborted)
        say({ progress: at(watched.progress) / 1000, bound: at(watched.bound), hostsOn: at(watched.on) || null });
    }
  })();
  try {
    return await pool.run(searchFitKind, { problem: withSharedLoads(problem), shared, mostMs: searchMs }, signal);
  } finally {
    over.abort();
    signal.removeEventListener("abort", stop);
    await telling;
  }
}

/** Curves are shared with the thread and not copied. */
function withSharedLoads(problem: FitProblem): FitProblem {
  const share = (values: Float64Array) => {
    const copy = new Float64Array(new SharedArrayBuffer(values.byteLength));
    copy.set(values);
    return copy;
  };
  return {
    ...problem,
    hosts: problem.hosts.map((host) => ({ ...host, base: host.base.map(share) })),
    guests: problem.guests.map((guest) => ({ ...guest, load: guest.load.map(share) })),
  };
}
