import type { Line, ReadingAnswer } from "../reading/document.ts";

/** A run's lines, and what it is called where it is told from the last one. */
export interface NamedReading {
  readonly name: string;
  readonly startedAtMs: number;
  readonly reading: ReadingAnswer;
}

/**
 * Lays runs over one another as if all had begun at `beginsMs`: the lines of each on the coarsest of their
 * steps, those of all but the last marked as earlier ones by the run's name. A step's value is the mean of those that begin in it.
 */
export function laidOver(runs: readonly NamedReading[], beginsMs: number): ReadingAnswer {
  const stepMs = Math.max(1000, ...runs.map(({ reading }) => reading.stepMs));
  const count = Math.max(
    1,
    ...runs.map(({ reading, startedAtMs }) =>
      Math.ceil((reading.from + reading.count * reading.stepMs - startedAtMs) / stepMs),
    ),
  );
  const lines = runs.flatMap(({ name, startedAtMs, reading }, i) =>
    reading.lines.map(
      ({ lows: _, highs: __, usual: ___, ...line }): Line => ({
        ...line,
        ...(i + 1 < runs.length && { earlier: name }),
        values: onSteps(line.values, { fromMs: reading.from - startedAtMs, stepMs: reading.stepMs }, { stepMs, count }),
      }),
    ),
  );
  return { from: beginsMs, stepMs, count, tier: "raw", lines, notes: [] };
}

function onSteps(
  values: Line["values"],
  from: { readonly fromMs: number; readonly stepMs: number },
  to: { readonly stepMs: number; readonly count: number },
): Line["values"] {
  const sums = new Float64Array(to.count);
  const counts = new Float64Array(to.count);
  values.forEach((value, i) => {
    const step = Math.floor((from.fromMs + i * from.stepMs) / to.stepMs);
    if (value === null || step < 0 || step >= to.count) return;
    sums[step] = (sums[step] as number) + value;
    counts[step] = (counts[step] as number) + 1;
  });
  return Array.from(sums, (sum, i) => ((counts[i] as number) === 0 ? null : sum / (counts[i] as number)));
}
