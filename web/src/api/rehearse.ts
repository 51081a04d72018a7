import type { RehearsalAnswer } from "../../../core/rules/rehearse.ts";
import type { RuleDocument } from "../../../core/rules/rule.ts";
import { linesOf } from "./ask-reading.ts";
import { noAnswer, problemError, RequestFailed } from "./client.ts";

/** Has the past run through a rule; `onProgress` is told the share that is done. */
export async function rehearseRule(rule: RuleDocument, from: number, to: number, signal: AbortSignal, onProgress: (share: number) => void): Promise<RehearsalAnswer> {
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  let response: Response;
  try {
    response = await fetch("/api/rules/rehearse", { method: "POST", body: JSON.stringify({ rule, from, to, zone }), headers: { "Content-Type": "application/json" }, signal });
  } catch (error) {
    if (signal.aborted) throw error;
    throw new RequestFailed(noAnswer, "Nubrel's server does not answer. What is typed here stays; try again when it is back.");
  }
  if (!response.ok || !response.body) throw problemError(response.status, await response.json().catch(() => undefined));
  for await (const line of linesOf(response.body)) {
    const { progress, result, problem } = JSON.parse(line) as { progress?: number; result?: RehearsalAnswer; problem?: { status: number } };
    if (progress !== undefined) onProgress(progress);
    if (problem) throw problemError(problem.status, problem);
    if (result) return result;
  }
  throw new RequestFailed(noAnswer, "The server's answer broke off. Nothing was changed; try again.");
}
