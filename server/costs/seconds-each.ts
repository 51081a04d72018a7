import { setTimeout as delay } from "node:timers/promises";
import { medianOf } from "../../core/series/select.ts";

/** The first times look up what the others know. */
const untold = 3;
/** What comes once a second finds less of itself in the processor's caches than what comes again at once. */
const apartMs = 60;

/**
 * Processor seconds that one time of something takes here: the median of so many times, so that what the server does
 * beside it in one of them does not count.
 */
export async function secondsEach(act: () => Promise<unknown>, times: number): Promise<number> {
  for (let i = 0; i < untold; i++) await act();
  const seconds = new Float64Array(times);
  for (let i = 0; i < times; i++) {
    await delay(apartMs);
    const before = process.cpuUsage();
    await act();
    const { user, system } = process.cpuUsage(before);
    seconds[i] = (user + system) / 1e6;
  }
  return medianOf(seconds, times);
}
