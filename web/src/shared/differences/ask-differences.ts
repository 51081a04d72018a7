import { type DifferencesView, watchDifferences } from "../../../../core/api/differences.ts";
import { callLines, noAnswer, problemError, RequestFailed } from "../../api/client.ts";
import { viewerZone } from "../../api/queries.ts";
import type { Span } from "../../time/time-window.ts";

/** Asks what was different in a span; `onProgress` is told the share that is done. */
export async function askDifferences(
  { fromMs, toMs }: Span,
  signal: AbortSignal,
  onProgress: (share: number) => void,
): Promise<DifferencesView> {
  const body = { window: { from: Math.round(fromMs), to: Math.round(toMs) }, zone: viewerZone };
  for await (const { progress, result, problem } of callLines(watchDifferences, body, signal)) {
    if (progress !== undefined) onProgress(progress);
    if (problem) throw problemError(problem.status, problem);
    if (result) return result;
  }
  throw new RequestFailed(noAnswer, "The server's answer broke off; try again.");
}
