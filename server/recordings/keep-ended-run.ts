import type { ReadingAnswer } from "../../core/reading/document.ts";
import type { RunListed } from "../../core/api/recordings.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import type { Database } from "../db/pool.ts";
import type { Store } from "../store/store.ts";
import type { Executor } from "../work/executor.ts";
import { keepRun, type RunRow } from "./run-rows.ts";
import { samplesOfRun } from "./run-samples.ts";
import { usedMost } from "./used-most.ts";
import { readRunKind } from "./run-work.ts";

const stripPoints = 60;

interface KeepParts {
  readonly database: Database;
  readonly store: Store;
  readonly pool: Executor;
  readonly names: MachineNames;
}

/** Keeps the samples of a run that has ended, apart from the store's, with what its strip shows in lists. */
export async function keepEndedRun({ database, store, pool, names }: KeepParts, row: RunRow): Promise<void> {
  const series = await samplesOfRun(store, names, row, row.parts);
  const { document, startedAtMs, endedAtMs } = row;
  const { reading } = await pool.run(readRunKind, {
    document,
    series,
    fromMs: startedAtMs,
    toMs: endedAtMs as number,
  });
  const used = await usedMost(store, row);
  await keepRun(database, row.id, series, { strip: stripOf(reading), used });
}

/**
 * How the lines of a run went together, in some 60 steps: the mean of all that moved, each from its least (0) to its
 * most (1). Empty where there is none.
 */
export function stripOf({ lines }: Pick<ReadingAnswer, "lines">): RunListed["strip"] {
  const moved = lines.flatMap(({ values }) => {
    const known = values.filter((value) => value !== null);
    const [least, most] = [Math.min(...known), Math.max(...known)];
    return known.length > 0 && most > least ? [{ values, least, span: most - least }] : [];
  });
  const length = lines[0]?.values.length ?? 0;
  const points = Math.min(stripPoints, length);
  return Array.from({ length: points }, (_, i) => {
    const from = Math.floor((i * length) / points);
    const to = Math.max(from + 1, Math.floor(((i + 1) * length) / points));
    const heights = moved.flatMap(({ values, least, span }) =>
      values.slice(from, to).flatMap((value) => (value === null ? [] : [(value - least) / span])),
    );
    if (heights.length === 0) return null;
    return Math.round((heights.reduce((sum, one) => sum + one, 0) / heights.length) * 1000) / 1000;
  });
}
