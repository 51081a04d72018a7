/** What must hold of a measured figure. */
export interface Limit {
  /** The figure must be at least, or at most, this. */
  readonly atLeast?: number;
  readonly atMost?: number;
}

let missed = 0;

/** Prints one measured figure beside its limit and notes whether it is kept. */
export function report(what: string, figure: number, unit: string, { atLeast, atMost }: Limit, detail = ""): void {
  const kept = (atLeast === undefined || figure >= atLeast) && (atMost === undefined || figure <= atMost);
  const limit = atLeast !== undefined ? `at least ${atLeast}` : atMost !== undefined ? `at most ${atMost}` : "none";
  if (!kept) missed++;
  console.log(
    `${what.padEnd(64)} ${`${round(figure)} ${unit}`.padStart(16)}   limit ${limit.padEnd(14)} ${kept ? "kept  " : "MISSED"} ${detail}`,
  );
}

/** Sets the exit code from what was reported. */
export function finish(): void {
  process.exitCode = missed === 0 ? 0 : 1;
}

export function median(figures: readonly number[]): number {
  return [...figures].sort((a, b) => a - b)[figures.length >> 1] as number;
}

/**
 * Runs before measuring: a server that has been up for a minute has its code compiled. After a dozen it has not: the
 * same reading takes half as long again as after fifty.
 */
export const warmRounds = 50;

/** The median ms of two ways to do the same, taken in turns, so that a slow moment of the machine meets both. */
export async function compare(
  rounds: number,
  ours: () => unknown,
  theirs: () => unknown,
): Promise<{ readonly oursMs: number; readonly theirsMs: number; readonly ratio: number }> {
  const times: { ours: number[]; theirs: number[]; ratio: number[] } = { ours: [], theirs: [], ratio: [] };
  for (let i = 0; i < warmRounds; i++) await ours();
  await theirs();
  for (let i = 0; i < rounds; i++) {
    const a = await msOf(ours);
    const b = await msOf(theirs);
    times.ours.push(a);
    times.theirs.push(b);
    times.ratio.push(b / a);
  }
  return { oursMs: median(times.ours), theirsMs: median(times.theirs), ratio: median(times.ratio) };
}

export async function msOf(work: () => unknown): Promise<number> {
  const began = performance.now();
  await work();
  return performance.now() - began;
}

export function round(figure: number): string {
  return figure >= 100 ? figure.toFixed(0) : figure >= 10 ? figure.toFixed(1) : figure.toFixed(2);
}
