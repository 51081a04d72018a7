import type { RunView } from "../../core/api/recordings.ts";
import type { RunReading } from "../../core/recordings/run-reading.ts";
import type { RunSeries } from "../../core/recordings/run-series.ts";
import type { Database } from "../db/pool.ts";
import { listEvents } from "../events/event-rows.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import { listIncidents } from "../rules/incident-rows.ts";
import type { Store } from "../store/store.ts";
import type { Executor } from "../work/executor.ts";
import { keptSeries, type RunRow } from "./run-rows.ts";
import { samplesOfRun } from "./run-samples.ts";
import { readRunKind } from "./run-work.ts";
import { usedMost } from "./used-most.ts";

export interface ReportParts {
  readonly database: Database;
  readonly store: Store;
  readonly pool: Executor;
  readonly names: MachineNames;
}

const mostIncidents = 100;

/** The samples of a run: kept ones, else those among the store's, up to now where it is on. */
export async function seriesOfRun(
  { database, store, names }: Pick<ReportParts, "database" | "store" | "names">,
  row: RunRow,
  parts = row.parts,
): Promise<readonly RunSeries[]> {
  return row.isKept ? await keptSeries(database, row.id) : await samplesOfRun(store, names, row, parts);
}

/** Everything about a run. `parts` are those so far of one that is on, `untilMs` is its end or now. */
export async function reportOf(
  reported: ReportParts,
  row: RunRow,
  { parts, untilMs }: { readonly parts: RunRow["parts"]; readonly untilMs: number },
  signal?: AbortSignal,
): Promise<RunView> {
  const { database, pool, store } = reported;
  const series = await seriesOfRun(reported, row, parts);
  const fromMs = Math.min(row.startedAtMs, ...parts.map((part) => part.fromMs));
  const task = { document: row.document, series, fromMs, toMs: untilMs };
  const [read, events, incidents, used] = await Promise.all([
    pool.run(readRunKind, task, signal) as Promise<RunReading>,
    row.origin === "file" ? row.events : listEvents(database, fromMs, untilMs),
    row.origin === "file" ? [] : listIncidents(database, fromMs, untilMs, mostIncidents),
    row.isKept ? row.used : usedMost(store, row),
  ]);
  const { id, recordingId, origin, startedAtMs, endedAtMs, endedBecause, everySeconds, samples, bytes, document } = row;
  return {
    id,
    recordingId,
    name: document.name,
    origin,
    startedAtMs,
    endedAtMs,
    endedBecause,
    everySeconds,
    parts,
    samples,
    bytes,
    document,
    ...read,
    notes: [...row.notes, ...read.reading.notes],
    events: events.filter(({ fromMs: at }) => at < untilMs),
    incidents: incidents.filter(({ raisedAtMs }) => raisedAtMs < untilMs),
    processes: used,
  };
}
