import type { BeginBody, RunningView } from "../../core/api/recordings.ts";
import type { RunOrigin } from "../../core/recordings/recording.ts";
import { Problem } from "../http/problem.ts";
import { forecastOf } from "./forecast.ts";
import type { RecordingRow } from "./recording-rows.ts";
import type { Recordings } from "./recordings.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import type { Sources } from "../sources/sources.ts";
import type { Store } from "../store/store.ts";

/** So many runs at once are enough; a script in a loop begins no more. */
const mostOn = 20;

/** Begins a run that somebody asks for. Throws Problem where it is over the budget and that was not said to be right. */
export async function beginAsked(
  { recordings, store, sources, names }: BeginParts,
  row: RecordingRow,
  origin: RunOrigin,
  { forSeconds, anyway = false }: BeginBody,
): Promise<RunningView> {
  if (recordings.running().length >= mostOn)
    throw new Problem(409, "too-many-runs", `${mostOn} runs are on. End one, or wait until one has ended.`);
  const document = forSeconds === undefined ? row.document : { ...row.document, forSeconds };
  const bounded = document.mostSamples !== undefined || document.mostBytes !== undefined;
  if (!anyway && !bounded) {
    const { bytesPerSample } = recordings;
    const { over } = await forecastOf({ store, sources, names, bytesPerSample }, document);
    if (over.length > 0)
      throw new Problem(
        409,
        "over-the-budget",
        `It would take ${over.join("; ")}. Say how long it is to run, take a longer interval, or begin it anyway ("anyway": true).`,
      );
  }
  return (await recordings.begin(row, origin, { forSeconds })) as RunningView;
}

export interface BeginParts {
  readonly recordings: Recordings;
  readonly store: Store;
  readonly sources: Sources;
  readonly names: MachineNames;
}
