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

/** The line that moved most for its height, from 0 to 1, in some 60 steps; empty where there is none. */
export function stripOf({ lines }: Pick<ReadingAnswer, "lines">): RunListed["strip"] {
  const moved = (line: ReadingAnswer["lines"][number]) =>
    line.max === null || line.min === null || line.max === 0 ? 0 : (line.max - line.min) / Math.abs(line.max);
  const line = [...lines].sort((a, b) => moved(b) - moved(a))[0];
  if (!line) return [];
  const known = line.values.filter((value): value is number => value !== null);
  const least = Math.min(0, ...known);
  const most = Math.max(...known);
  const points = Math.min(stripPoints, line.values.length);
  return Array.from({ length: points }, (_, i) => {
    const from = Math.floor((i * line.values.length) / points);
    const to = Math.max(from + 1, Math.floor(((i + 1) * line.values.length) / points));
    const part = line.values.slice(from, to).filter((value): value is number => value !== null);
    if (part.length === 0) return null;
    const mean = part.reduce((sum, value) => sum + value, 0) / part.length;
    return most > least ? Math.round(((mean - least) / (most - least)) * 1000) / 1000 : 0;
  });
}
