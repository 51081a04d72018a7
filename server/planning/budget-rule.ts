import type { Request } from "express";
import { readyMadeRules } from "../../core/rules/ready-made-rules.ts";
import type { Alerting } from "../alerting/alerting.ts";
import type { Database } from "../db/pool.ts";
import { accountIdOf, nameOf } from "../http/asker.ts";
import { insertRule } from "../rules/rule-rows.ts";

const id = "month-budget";

/** Makes the ordinary rule that warns of a budget, the first time that somebody gives one; it can be changed as any other. */
export async function warnOfBudget(
  { database, alerting }: { readonly database: Database; readonly alerting: Alerting },
  request: Request,
): Promise<void> {
  const made = readyMadeRules.find((one) => one.id === id);
  if (!made || (await alerting.checker.rules()).some(({ readyMade }) => readyMade === id)) return;
  await insertRule(database, made.document, accountIdOf(request), nameOf(request), id);
  alerting.checker.forget();
  alerting.checkSoon();
}
