const roundSteps = [1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200, 10_800, 21_600, 43_200, 86_400];

export interface Grid {
  /** Start of the first step, a multiple of the step. */
  readonly fromMs: number;
  readonly stepMs: number;
  readonly count: number;
}

/**
 * The finest round step, in ms, that cuts the window into at most `points` pieces and is not finer than the samples come.
 * `intervalMs` may be NaN or infinite where it is unknown.
 */
export function autoStepMs(fromMs: number, toMs: number, points: number, intervalMs: number): number {
  return roundStepMs(Math.max((toMs - fromMs) / points, intervalMs > 0 && Number.isFinite(intervalMs) ? intervalMs * 0.99 : 0));
}

/** The finest round step of at least `leastMs`. */
export function roundStepMs(leastMs: number): number {
  const wanted = leastMs / 1000;
  return (roundSteps.find((step) => step >= wanted) ?? Math.ceil(wanted / 86_400) * 86_400) * 1000;
}

/** The steps that cover `[fromMs, toMs)`; the first may begin before `fromMs`. */
export function gridOf(fromMs: number, toMs: number, stepMs: number): Grid {
  const start = Math.floor(fromMs / stepMs) * stepMs;
  return { fromMs: start, stepMs, count: Math.max(1, Math.ceil((toMs - start) / stepMs)) };
}

const unitMs: Readonly<Record<string, number>> = { s: 1000, m: 60_000, h: 3_600_000, d: 86_400_000 };

/** Milliseconds of a span such as `7d`; undefined where the text is not one. */
export function spanMs(text: string): number | undefined {
  const parts = /^(\d{1,5})([smhd])$/.exec(text);
  if (!parts) return undefined;
  return Number(parts[1]) * (unitMs[parts[2] as string] as number);
}

/** The text of a span in its largest whole unit: 604800000 is "7d". Parts of a second are dropped. */
export function spanOfMs(ms: number): string {
  const [unit, size] = Object.entries(unitMs).reverse().find(([, size]) => ms >= size && ms % size === 0) ?? ["s", 1000];
  return `${Math.floor(ms / size)}${unit}`;
}
