import Joi from "joi";
import { parseFigure } from "../../core/reading/figure.ts";
import {
  compares,
  type Limit,
  measures,
  noDataAnswers,
  type RuleDocument,
  type Watch,
  whenGoneAnswers,
} from "../../core/rules/rule.ts";
import { openReadingSchema } from "../reading/reading-schema.ts";

const week = 604_800;
const longestWatch = 90 * 86_400;
const whole = (least: number, most: number) => Joi.number().integer().min(least).max(most);
const number = Joi.number().unsafe();
const limit = Joi.object<Limit>({ low: number, high: number, clearLow: number, clearHigh: number });

const watch = Joi.alternatives()
  .conditional(Joi.object({ kind: "value" }).unknown(), {
    then: Joi.object({
      kind: Joi.string(),
      of: Joi.valid(...measures).required(),
      overSeconds: whole(0, longestWatch).required(),
    }),
  })
  .conditional(Joi.object({ kind: "change" }).unknown(), {
    then: Joi.object({ kind: Joi.string(), overSeconds: whole(1, longestWatch).required() }),
  })
  .conditional(Joi.object({ kind: "reach" }).unknown(), {
    then: Joi.object({
      kind: Joi.string(),
      target: number.required(),
      pastSeconds: whole(60, longestWatch).required(),
    }),
  })
  .conditional(Joi.object({ kind: Joi.valid("silence", "usual") }).unknown(), {
    then: Joi.object<Watch>({ kind: Joi.valid("silence", "usual").required() }),
    otherwise: Joi.forbidden().messages({
      "any.unknown": "{{#label}} watches none of: value, change, silence, reach, usual",
    }),
  });

/** What a limit must say depends on the comparison; a clearing limit lies on the quiet side. */
function checkedLimits(rule: RuleDocument, helpers: Joi.CustomHelpers): RuleDocument | Joi.ErrorReport {
  if (rule.notice === null && rule.urgent === null) return helpers.error("rule.none");
  for (const severity of ["notice", "urgent"] as const) {
    const one = rule[severity];
    if (one === null) continue;
    const { low, high, clearLow = low, clearHigh = high } = one;
    const needsLow = rule.compare !== "above";
    const needsHigh = rule.compare !== "below";
    if ((needsLow && low === undefined) || (needsHigh && high === undefined))
      return helpers.error("rule.missing", {
        severity,
        compare: rule.compare,
        wanted: [needsLow && "low", needsHigh && "high"].filter(Boolean).join(" and "),
      });
    if (needsLow && needsHigh && !((low as number) < (high as number)))
      return helpers.error("rule.turned", { severity });
    const inside = rule.compare === "inside";
    if (needsHigh && (inside ? (clearHigh as number) < (high as number) : (clearHigh as number) > (high as number)))
      return helpers.error("rule.clear", { severity, end: "clearHigh" });
    if (needsLow && (inside ? (clearLow as number) > (low as number) : (clearLow as number) < (low as number)))
      return helpers.error("rule.clear", { severity, end: "clearLow" });
  }
  if (rule.watch.kind === "silence" && rule.compare !== "above") return helpers.error("rule.silence");
  if (rule.watch.kind === "reach" && rule.compare !== "below") return helpers.error("rule.reach");
  if (rule.reading.figure !== undefined) {
    try {
      parseFigure(rule.reading.figure, Object.keys(rule.reading.sentences));
    } catch (error) {
      return helpers.error("rule.figure", { why: (error as Error).message });
    }
  }
  return rule;
}

/** A rule's document; what is left out is as usual. */
export const ruleSchema = Joi.object<RuleDocument>({
  name: Joi.string().trim().min(1).max(200).required(),
  reading: openReadingSchema.required(),
  watch: watch.default({ kind: "value", of: "last", overSeconds: 0 }),
  compare: Joi.valid(...compares).required(),
  notice: limit.allow(null).default(null),
  urgent: limit.allow(null).default(null),
  everySeconds: whole(0, 86_400).default(0),
  mustLastSeconds: whole(0, week).default(0),
  staysRaisedSeconds: whole(0, week).default(0),
  noData: Joi.valid(...noDataAnswers).default("hold"),
  whenGone: Joi.valid(...whenGoneAnswers),
  marginSeconds: whole(60, 31 * 86_400)
    .allow(null)
    .default(null),
  place: Joi.object({ dashboard: whole(1, 0x7fffffff).required(), tile: Joi.string().max(60).required() })
    .allow(null)
    .default(null),
  advice: Joi.string().allow("").max(5000).default(""),
})
  .custom(checkedLimits)
  .messages({
    "rule.none": "{{#label}} has no limit: give notice or urgent one",
    "rule.missing": "{{#label}}.{{#severity}} needs {{#wanted}}, as it is {{#compare}}",
    "rule.turned": "{{#label}}.{{#severity}}: low must be below high",
    "rule.clear": "{{#label}}.{{#severity}}.{{#end}} lies beyond the limit: it clears on the quiet side",
    "rule.silence": '{{#label}}.compare must be "above": silence is told when it lasts longer than a limit',
    "rule.reach": '{{#label}}.compare must be "below": it is told when less time is left than a limit',
    "rule.figure": "{{#label}}.reading.figure: {{#why}}",
  });
