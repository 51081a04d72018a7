/** Something done over and over. */
export interface Schedule {
  /** Ends it; resolves when what runs has ended. */
  stop(): Promise<void>;
}

/**
 * Runs `work` at every whole multiple of `everyMs` plus `offsetMs`, and at once when `atOnce`. A run that takes longer than the
 * interval is never overlapped: the moments it misses are left out. Errors go to `failed`.
 */
export function everyMultiple(everyMs: number, work: (nowMs: number) => Promise<void>, failed: (error: unknown) => void, { offsetMs = 0, atOnce = false } = {}): Schedule {
  let timer: NodeJS.Timeout | undefined;
  let running: Promise<void> = Promise.resolve();
  let stopped = false;
  /** The multiple that runs next, or ran last. */
  let planned = 0;

  const runAndPlan = () => {
    running = work(Date.now()).catch(failed).finally(plan);
  };
  const plan = () => {
    if (stopped) return;
    const now = Date.now() - offsetMs;
    // A timer may fire a millisecond early: the moment just run is not planned again.
    planned = Math.max(Math.floor(now / everyMs) + 1, planned + 1);
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
