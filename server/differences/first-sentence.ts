import { DateTime } from "luxon";
import { entryWords } from "../../core/differences/words.ts";
import type { Store } from "../store/store.ts";
import type { Executor } from "../work/executor.ts";
import { findDifferences } from "./find-differences.ts";
import type { HourlyPast } from "./hourly-past.ts";

/** A message waits no longer for it. */
const mostMs = 4000;

/** Says in a sentence what was most different in a span, for messages; undefined where nothing was, or it took too long. */
export function firstSentence(
  store: Store,
  executor: Executor,
  past: HourlyPast,
): (fromMs: number, toMs: number, zone: string) => Promise<string | undefined> {
  return async (fromMs, toMs, zone) => {
    const signal = AbortSignal.timeout(mostMs);
    const late = new Promise<undefined>((resolve) => signal.addEventListener("abort", () => resolve(undefined)));
    const asked = findDifferences({ store, executor, past }, { from: fromMs, to: toMs }, zone, { signal }).then(
      ({ entries }) => entries[0],
      () => undefined,
    );
    const entry = await Promise.race([asked, late]);
    return entry && entryWords(entry, (ms) => DateTime.fromMillis(ms, { zone }).toFormat("HH:mm"));
  };
}
