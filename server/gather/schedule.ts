const latenessMs = 50;

/** Something done over and over. */
export interface Schedule {
  /** Ends it; resolves when what runs has ended. */
  stop(): Promise<void>;
}

/**
 * Counts on the wall clock, and waits by the monotonic one: where the clock is set, the moments after it are those of
 * the new time. Runs `work` at every whole multiple of `everyMs` plus `offsetMs`, and at once when `atOnce`. A run that
 * takes longer than the
 * interval is never overlapped: the moments it misses are left out. Errors go to `failed`. `work` is told the moment
 * that was planned
 * where the timer was not later than a few milliseconds: even distances take less room and chart better.
 */
export function everyMultiple(
  everyMs: number,
  work: (nowMs: number) => Promise<void>,
  failed: (error: unknown) => void,
  {
    offsetMs = 0,
    atOnce = false,
    planned: tell,
  }: { offsetMs?: number; atOnce?: boolean; planned?: (nextMs: number) => void } = {},
): Schedule {
  let timer: NodeJS.Timeout | undefined;
  let running: Promise<void> = Promise.resolve();
  let stopped = false;
  /** The multiple that runs next, or ran last. */
  let planned = 0;

  const runAndPlan = () => {
    const now = Date.now();
    const exact = planned * everyMs + offsetMs;
    running = work(Math.abs(now - exact) < latenessMs ? exact : now)
      .catch(failed)
      .finally(plan);
  };
  const plan = () => {
    if (stopped) return;
    const now = Date.now() - offsetMs;
    const next = Math.floor(now / everyMs) + 1;
    // A timer may fire a millisecond early: the moment just run is not planned again.
    planned = next === planned ? next + 1 : next;
    tell?.(planned * everyMs + offsetMs);
    timer = setTimeout(runAndPlan, planned * everyMs - now);
  };
  if (atOnce) runAndPlan();
  else plan();
  return {
    async stop() {
      stopped = true;
      clearTimeout(timer);
      await running;
    },
  };
}
