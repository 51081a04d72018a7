import { Router } from "express";
import Joi from "joi";
import type { RuleView } from "../../core/api/rules.ts";
import { readyMadeRules } from "../../core/rules/ready-made-rules.ts";
import type { RuleDocument } from "../../core/rules/rule.ts";
import type { Database } from "../db/pool.ts";
import type { Rehearser } from "./rehearser.ts";
import type { RuleChecker } from "./rule-checker.ts";
import { insertRule, type StoredRule } from "./rule-rows.ts";
import { CancelledError } from "../work/work-kind.ts";
import { checked } from "../http/checked.ts";
import { idParameter } from "../http/id-parameter.ts";
import { Problem, problemBody } from "../http/problem.ts";
import { ruleSchema } from "./rule-schema.ts";
import { accountIdOf, nameOf } from "../http/asker.ts";

const dayMs = 86_400_000;
const longestPast = 90 * dayMs;
const switchSchema = Joi.object<{ on: boolean }>({ on: Joi.boolean().strict().required() });
const madeSchema = Joi.object<{ readyMade: string }>({ readyMade: Joi.valid(...readyMadeRules.map(({ id }) => id)).required() });
const rehearsalSchema = Joi.object<{ rule: RuleDocument; from: number; to: number; zone: string }>({
  rule: ruleSchema.required(),
  from: Joi.number().integer().required(),
  to: Joi.number().integer().greater(Joi.ref("from")).required().custom((to: number, helpers) => (to - (helpers.state.ancestors[0] as { from: number }).from > longestPast ? helpers.error("past") : to)).messages({ past: "{{#label}} is more than 90 days after from" }),
  zone: Joi.string().max(100).default("UTC").custom((zone: string, helpers) => (isZone(zone) ? zone : helpers.error("zone"))).messages({ zone: "{{#label}} is no time zone's name, such as Europe/Berlin" }),
});

interface RulesParts {
  readonly database: Database;
  readonly checker: RuleChecker;
  readonly rehearser: Rehearser;
  readonly checkSoon: () => void;
}

/** Rules: made, changed, switched, removed, and rehearsed on what was. */
export function rulesRouter({ database, checker, rehearser, checkSoon }: RulesParts): Router {
  const router = Router();
  const view = (rule: StoredRule): RuleView => {
    const state = rule.on ? checker.stateOf(rule.id) : undefined;
    return { ...rule, mode: state?.mode ?? null, severity: state?.severity ?? (rule.notice ? "notice" : "urgent"), sinceMs: state?.sinceMs ?? null, value: state?.value ?? null, unit: state?.unit ?? rule.reading.unit ?? "1", lines: state?.lines ?? 0, raised: state?.raised ?? 0, failure: state?.failure ?? null };
  };

  router.get("/rules", async (_request, response) => {
    response.json((await checker.rules()).map(view));
  });

  router.post("/rules", async (request, response) => {
    const rule = await insertRule(database, checked(ruleSchema, request.body), accountIdOf(request), nameOf(request));
    checker.forget();
    checkSoon();
    response.status(201).json(view(rule));
  });

  router.post("/rules/ready-made", async (request, response) => {
    const { readyMade } = checked(madeSchema, request.body);
    const made = readyMadeRules.find(({ id }) => id === readyMade) as (typeof readyMadeRules)[number];
    if ((await checker.rules()).some((rule) => rule.readyMade === readyMade)) throw new Problem(409, "Is there already", `The rule "${made.document.name}" has been made of this one; change that.`);
    const rule = await insertRule(database, made.document, accountIdOf(request), nameOf(request), readyMade);
    checker.forget();
    checkSoon();
    response.status(201).json(view(rule));
  });

  // A line of JSON each: how far it is, then what came of it.
  router.post("/rules/rehearse", async (request, response) => {
    const { rule, from, to, zone } = checked(rehearsalSchema, request.body);
    const gone = new AbortController();
    response.on("close", () => gone.abort());
    let isOpen = false;
    const write = (line: object) => {
      if (gone.signal.aborted) return;
      if (!isOpen) response.writeHead(200, { "Content-Type": "application/x-ndjson", "X-Accel-Buffering": "no" });
      isOpen = true;
      response.write(`${JSON.stringify(line)}\n`);
    };
    try {
      const result = await rehearser.rehearse(rule, from, to, zone, (share) => write({ progress: share }), gone.signal);
      write({ result });
    } catch (error) {
      if (error instanceof CancelledError) return;
      if (!isOpen) throw error;
      write({ problem: problemBody(error) });
    }
    response.end();
  });

  router.put("/rules/:id", async (request, response) => {
    const id = idParameter(request, "rule");
    const rule = await checker.change(id, checked(ruleSchema, request.body), nameOf(request), Date.now());
    if (!rule) throw noRule(id);
    checkSoon();
    response.json(view(rule));
  });

  router.patch("/rules/:id", async (request, response) => {
    const { on } = checked(switchSchema, request.body);
    const id = idParameter(request, "rule");
    const rule = await checker.switch(id, on, Date.now());
    if (!rule) throw noRule(id);
    checkSoon();
    response.json(view(rule));
  });

  router.delete("/rules/:id", async (request, response) => {
    const id = idParameter(request, "rule");
    if (!(await checker.remove(id, Date.now()))) throw noRule(id);
    response.status(204).end();
  });
  return router;
}

const noRule = (id: number) => new Problem(404, "No such rule", `There is no rule ${id}; it may have been removed meanwhile.`);

export function isZone(zone: string): boolean {
  try {
    return new Intl.DateTimeFormat("en", { timeZone: zone }).resolvedOptions().timeZone !== "";
  } catch {
    return false;
  }
}
