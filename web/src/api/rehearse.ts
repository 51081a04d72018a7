import * as routes from "../../../core/api/rules.ts";
import type { RehearsalAnswer } from "../../../core/rules/rehearse.ts";
import type { RuleDocument } from "../../../core/rules/rule.ts";
import { callLines, noAnswer, problemError, RequestFailed } from "./client.ts";

/** Has the past run through a rule; `onProgress` is told the share that is done. */
export async function rehearseRule(
  rule: RuleDocument,
  from: number,
  to: number,
  signal: AbortSignal,
  onProgress: (share: number) => void,
): Promise<RehearsalAnswer> {
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  for await (const { progress, result, problem } of callLines(routes.rehearseRule, { rule, from, to, zone }, signal)) {
    if (progress !== undefined) onProgress(progress);
    if (problem) throw problemError(problem.status, problem);
    if (result) return result;
  }
  throw new RequestFailed(noAnswer, "The server's answer broke off. Nothing was changed; try again.");
}
