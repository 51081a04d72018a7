import type { RunningView } from "../../core/api/recordings.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import type { Sources } from "../sources/sources.ts";
import type { Store } from "../store/store.ts";
import { listedRun } from "./listed-run.ts";
import type { Moment, OnRun } from "./on-run.ts";
import { sourcesOf } from "./recorded-sources.ts";
import { recordedSeries } from "./recorded-series.ts";

interface ViewParts {
  readonly store: Store;
  readonly names: MachineNames;
  readonly sources: Sources;
}

/** A run that is on, with the time left and what it costs. */
export function runningView(
  { store, names, sources }: ViewParts,
  run: OnRun,
  now: Moment,
  bytesPerSample: number,
): RunningView {
  const { document } = run.row;
  const shares = sourcesOf(sources, document, recordedSeries(store, names, document)).flatMap(
    ({ id }) => sources.hastyShareOf(id) ?? [],
  );
  return {
    ...listedRun(run.row),
    name: document.name,
    untilMs: run.untilMs,
    samples: run.samples,
    bytes: Math.round(run.samples * bytesPerSample),
    leftMs: run.leftMs(now),
    serverShare: shares.length === 0 ? null : shares.reduce((sum, share) => sum + share, 0),
  };
}
