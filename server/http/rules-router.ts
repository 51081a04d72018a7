import { Router } from "express";
import Joi from "joi";
import type { RuleView } from "../../core/api/views.ts";
import { parseFigure } from "../../core/reading/figure.ts";
import type { Rule } from "../../core/rules/rule.ts";
import type { Database } from "../db/pool.ts";
import { listIncidents } from "../rules/incident-rows.ts";
import type { RuleChecker } from "../rules/rule-checker.ts";
import { insertRule, listRules } from "../rules/rule-rows.ts";
import { checked } from "./checked.ts";
import { Problem } from "./problem.ts";
import { openReadingSchema, windowSchema } from "./reading-schema.ts";
import { accountIdOf } from "./signed-in.ts";

const week = 604_800;
const mostIncidents = 1000;

const ruleSchema = Joi.object<Omit<Rule, "id" | "on">>({
  name: Joi.string().trim().min(1).max(200).required(),
  reading: openReadingSchema.required(),
  compare: Joi.valid("above", "below").required(),
  limit: Joi.number().unsafe().required(),
  mustLastSeconds: Joi.number().integer().min(0).max(week).default(0),
  staysRaisedSeconds: Joi.number().integer().min(0).max(week).default(0),
  severity: Joi.valid("notice", "urgent").default("notice"),
});
const switchSchema = Joi.object<{ on: boolean }>({ on: Joi.boolean().strict().required() });

/** Rules, and the incidents that came of them. */
export function rulesRouter(database: Database, checker: RuleChecker, checkSoon: () => void): Router {
  const router = Router();
  const view = (rule: Rule): RuleView => {
    const state = rule.on ? checker.stateOf(rule.id) : undefined;
    return { ...rule, mode: state?.mode ?? null, sinceMs: state?.sinceMs ?? null, value: state?.value ?? null, failure: state?.failure ?? null };
  };

  router.get("/rules", async (_request, response) => {
    response.json((await listRules(database)).map(view));
  });

  router.post("/rules", async (request, response) => {
    const wish = checked(ruleSchema, request.body);
    if (wish.reading.figure !== undefined) parseFigure(wish.reading.figure, Object.keys(wish.reading.sentences));
    const rule = await insertRule(database, wish, accountIdOf(request));
    checkSoon();
    response.status(201).json(view(rule));
  });

  router.patch("/rules/:id", async (request, response) => {
    const { on } = checked(switchSchema, request.body);
    const rule = await checker.switch(idOf(request.params.id), on, Date.now());
    if (!rule) throw noRule(request.params.id);
    checkSoon();
    response.json(view(rule));
  });

  router.delete("/rules/:id", async (request, response) => {
    if (!(await checker.remove(idOf(request.params.id), Date.now()))) throw noRule(request.params.id);
    response.status(204).end();
  });

  router.get("/incidents", async (request, response) => {
    const { from, to } = checked(windowSchema, request.query);
    response.json(await listIncidents(database, from, to, mostIncidents));
  });
  return router;
}

const noRule = (id: string) => new Problem(404, "No such rule", `There is no rule ${id}; it may have been removed meanwhile.`);

function idOf(text: string): number {
  const id = Number(text);
  if (!Number.isInteger(id) || id < 1 || id > 0x7fffffff) throw noRule(text);
  return id;
}
