import type { RunPart } from "../../core/recordings/recording.ts";
import type { RunSeries } from "../../core/recordings/run-series.ts";
import { joinColumns } from "../../core/series/join-columns.ts";
import { type Column, emptyColumn } from "../../core/series/batch.ts";
import { reachFactor } from "../../core/series/interval.ts";
import { thinned } from "../../core/series/thinned.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import type { Store } from "../store/store.ts";
import { recordedSeries } from "./recorded-series.ts";
import type { RunRow } from "./run-rows.ts";

/** So many series are read from the store at once. */
const seriesAtOnce = 200;

/**
 * The samples of a run as they stand among the store's: of its parts, at its interval, and of each series the newest
 * before it, from which the first step's growth is told.
 */
export async function samplesOfRun(
  store: Store,
  names: MachineNames,
  { document, startedAtMs }: Pick<RunRow, "document" | "startedAtMs">,
  parts: readonly RunPart[],
): Promise<readonly RunSeries[]> {
  const everyMs = document.everySeconds * 1000;
  const all = recordedSeries(store, names, document);
  const found: RunSeries[] = [];
  for (let from = 0; from < all.length; from += seriesAtOnce) {
    const some = all.slice(from, from + seriesAtOnce);
    const ids = some.map(({ series }) => series.id);
    const intervals = store.intervalsMs(ids);
    const longest = intervals.reduce((most, ms) => (Number.isNaN(ms) ? most : Math.max(ms, most)), everyMs);
    const before = await store.read(ids, startedAtMs - longest * reachFactor, startedAtMs);
    const columns = await Promise.all(ordered(parts).map(({ fromMs, toMs }) => store.read(ids, fromMs, toMs)));
    const joined = joinColumns(some.map((_, i) => columns.map((list) => list[i] as Column)));
    some.forEach(({ series, of }, i) => {
      const column = thinned(joined[i] ?? emptyColumn, everyMs);
      if (column.timeMs.length === 0) return;
      const { counter, unit, kind, tags, falls } = series;
      found.push({
        counter,
        unit,
        kind,
        tags,
        ...(falls !== undefined && { falls }),
        of,
        column: withLead(before[i], column),
      });
    });
  }
  return found;
}

/** Where the clock was set back in a run its parts are not in the order of their times, or lie over each other. */
function ordered(parts: readonly RunPart[]): readonly RunPart[] {
  const sorted = [...parts].sort((a, b) => a.fromMs - b.fromMs);
  const apart: RunPart[] = [];
  for (const part of sorted) {
    const last = apart.at(-1);
    if (last && part.fromMs <= last.toMs)
      apart[apart.length - 1] = { fromMs: last.fromMs, toMs: Math.max(last.toMs, part.toMs) };
    else apart.push(part);
  }
  return apart;
}

/** The newest sample of `before` in front of the run's own. */
function withLead(before: Column | undefined, column: Column): Column {
  const last = (before?.timeMs.length ?? 0) - 1;
  if (!before || last < 0 || (before.timeMs[last] as number) >= (column.timeMs[0] as number)) return column;
  const timeMs = new Float64Array(column.timeMs.length + 1);
  const value = new Float64Array(column.timeMs.length + 1);
  timeMs[0] = before.timeMs[last] as number;
  value[0] = before.value[last] as number;
  timeMs.set(column.timeMs, 1);
  value.set(column.value, 1);
  return { timeMs, value };
}
