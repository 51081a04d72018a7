import * as routes from "../../core/api/rules.ts";
import { sent, serve } from "../http/serve.ts";
import { signalOf } from "../http/signal-of.ts";
import { Router } from "express";
import Joi from "joi";
import type { RuleView } from "../../core/api/rules.ts";
import { readyMadeRules } from "../../core/rules/ready-made-rules.ts";
import { isZone } from "../../core/time/is-zone.ts";
import type { RuleDocument } from "../../core/rules/rule.ts";
import type { Database } from "../db/pool.ts";
import type { Rehearser } from "./rehearser.ts";
import type { RuleChecker } from "./rule-checker.ts";
import { insertRule, type StoredRule } from "./rule-rows.ts";
import { CancelledError } from "../work/work-kind.ts";
import { Problem, problemBody } from "../http/problem.ts";
import { ruleSchema } from "./rule-schema.ts";
import { accountIdOf, nameOf } from "../http/asker.ts";

const dayMs = 86_400_000;
const longestPast = 90 * dayMs;
const switchSchema = Joi.object<{ on: boolean }>({ on: Joi.boolean().strict().required() });
const madeSchema = Joi.object<{ readyMade: string }>({
  readyMade: Joi.valid(...readyMadeRules.map(({ id }) => id)).required(),
});
const rehearsalSchema = Joi.object<{ rule: RuleDocument; from: number; to: number; zone: string }>({
  rule: ruleSchema.required(),
  from: Joi.number().integer().required(),
  to: Joi.number()
    .integer()
    .greater(Joi.ref("from"))
    .required()
    .custom((to: number, helpers) =>
      to - (helpers.state.ancestors[0] as { from: number }).from > longestPast ? helpers.error("past") : to,
    )
    .messages({ past: "{{#label}} is more than 90 days after from" }),
  zone: Joi.string()
    .max(100)
    .default("UTC")
    .custom((zone: string, helpers) => (isZone(zone) ? zone : helpers.error("zone")))
    .messages({ zone: "{{#label}} is no time zone's name, such as Europe/Berlin" }),
});

interface RulesParts {
  readonly database: Database;
  readonly checker: RuleChecker;
  readonly rehearser: Rehearser;
  readonly checkSoon: () => void;
  /** Tells every open page. */
  readonly changed: () => void;
}

/** Rules: made, changed, switched, removed, and rehearsed on what was. */
// biome-ignore lint/complexity/noExcessiveLinesPerFunction: the routes of one subject
export function rulesRouter({ database, checker, rehearser, checkSoon, changed }: RulesParts): Router {
  const router = Router();
  const written = () => {
    checkSoon();
    changed();
  };
  const view = (rule: StoredRule): RuleView => {
    const state = rule.on ? checker.stateOf(rule.id) : undefined;
    return {
      ...rule,
      mode: state?.mode ?? null,
      severity: state?.severity ?? (rule.notice ? "notice" : "urgent"),
      sinceMs: state?.sinceMs ?? null,
      value: state?.value ?? null,
      unit: state?.unit ?? rule.reading.unit ?? "1",
      lines: state?.lines ?? 0,
      raised: state?.raised ?? 0,
      failure: state?.failure ?? null,
    };
  };

  serve(router, routes.listRules, {}, async () => (await checker.rules()).map(view));

  serve(router, routes.makeRule, { body: ruleSchema }, async ({ body, request }) => {
    const rule = await insertRule(database, body, accountIdOf(request), nameOf(request));
    checker.forget();
    written();
    return view(rule);
  });

  serve(router, routes.makeReadyMadeRule, { body: madeSchema }, async ({ body: { readyMade }, request }) => {
    const made = readyMadeRules.find(({ id }) => id === readyMade) as (typeof readyMadeRules)[number];
    if ((await checker.rules()).some((rule) => rule.readyMade === readyMade))
      throw new Problem(
        409,
        "is-there-already",
        `The rule "${made.document.name}" has been made of this one; change that.`,
      );
    const rule = await insertRule(database, made.document, accountIdOf(request), nameOf(request), readyMade);
    checker.forget();
    written();
    return view(rule);
  });

  // A line of JSON each: how far it is, then what came of it.
  serve(
    router,
    routes.rehearseRule,
    { body: rehearsalSchema },
    async ({ body: { rule, from, to, zone }, request, response }) => {
      const signal = signalOf(response);
      let isOpen = false;
      const write = (line: object) => {
        if (signal.aborted) return;
        if (!isOpen) response.writeHead(200, { "Content-Type": "application/x-ndjson", "X-Accel-Buffering": "no" });
        isOpen = true;
        response.write(`${JSON.stringify(line)}\n`);
      };
      try {
        const result = await rehearser.rehearse(rule, from, to, zone, (share) => write({ progress: share }), signal);
        write({ result });
      } catch (error) {
        if (error instanceof CancelledError) return sent;
        if (!isOpen) throw error;
        write({ problem: problemBody(request, error) });
      }
      response.end();
      return sent;
    },
  );

  serve(router, routes.changeRule, { body: ruleSchema }, async ({ params: { id }, body, request }) => {
    const rule = await checker.change(id, body, nameOf(request), Date.now());
    if (!rule) throw noRule(id);
    written();
    return view(rule);
  });

  serve(router, routes.switchRule, { body: switchSchema }, async ({ params: { id }, body: { on } }) => {
    const rule = await checker.switch(id, on, Date.now());
    if (!rule) throw noRule(id);
    written();
    return view(rule);
  });

  serve(router, routes.removeRule, {}, async ({ params: { id } }) => {
    if (!(await checker.remove(id, Date.now()))) throw noRule(id);
    changed();
  });
  return router;
}

const noRule = (id: number) =>
  new Problem(404, "no-such-rule", `There is no rule ${id}; it may have been removed meanwhile.`);
