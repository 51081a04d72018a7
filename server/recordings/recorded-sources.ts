import type { RecordedSource } from "../../core/api/recordings.ts";
import type { RecordingDocument } from "../../core/recordings/recording.ts";
import { whyNotFaster } from "../sources/haste.ts";
import type { Sources } from "../sources/sources.ts";
import type { RecordedSeries } from "./recorded-series.ts";

type Known = Pick<RecordedSource, "id" | "name" | "machine" | "series" | "everySeconds" | "why">;

/** The sources of what a recording holds, and which of them keep their own interval. */
export function sourcesOf(
  sources: Sources,
  { everySeconds }: Pick<RecordingDocument, "everySeconds">,
  series: readonly RecordedSeries[],
): readonly Known[] {
  const counts = new Map<number, number>();
  for (const { series: one } of series)
    if (one.sourceId !== undefined) counts.set(one.sourceId, (counts.get(one.sourceId) ?? 0) + 1);
  return [...counts].flatMap(([id, count]) => {
    const run = sources.find(id);
    if (!run) return [];
    const { name, machine, kind, intervalMs, pause } = run.source;
    const own = intervalMs / 1000;
    const why = everySeconds >= own ? null : pause ? "it is paused" : (whyNotFaster(kind, run.sendsTables) ?? null);
    return [
      {
        id,
        name,
        machine,
        series: count,
        everySeconds: why === null ? everySeconds : Math.max(own, everySeconds),
        why,
      },
    ];
  });
}
