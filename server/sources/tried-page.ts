import type { IntakeLimits } from "../../core/sources/intake-limits.ts";
import type { TriedPage, TriedSeries } from "../../core/api/sources.ts";
import type { TableShape } from "../../core/formats/csv/table-shape.ts";
import type { FileSeries } from "../../core/pages/file-series.ts";
import type { Page } from "../../core/pages/page.ts";
import { seriesKey } from "../../core/counters/series-key.ts";
import { type ReceivedFormat, readReceived } from "./received.ts";
import type { SeriesReader } from "./source-run.ts";
import { isStorableSeries, namedSeries, type SeriesSource, unstorable } from "./series-table.ts";

const mostShown = 500;

/** What a text would give a source, series by series; nothing is stored. Throws TextError, OtlpError. */
export function triedPage(
  source: SeriesSource,
  bytes: Uint8Array,
  format: ReceivedFormat,
  limits: IntakeLimits,
  tookMs: number,
  shape: TableShape | null = null,
): TriedPage {
  return triedReading(
    source,
    readReceived(bytes, format, limits, shape),
    { bytes: bytes.length, format, tookMs },
    limits,
  );
}

/** The same for what has been read already. */
export function triedReading(
  source: SeriesSource,
  { reader, page }: { readonly reader: SeriesReader; readonly page: Page },
  about: Pick<TriedPage, "bytes" | "format" | "tookMs">,
  limits: IntakeLimits,
): TriedPage {
  const leftOut: Record<string, number> = Object.fromEntries(page.leftOut);
  delete leftOut["exemplars"];
  const latest = new Map<number, number>();
  for (let i = 0; i < page.length; i++) latest.set(page.which[i] as number, page.value[i] as number);
  const keys = new Set<string>();
  const why = reader.series.map((series) => {
    const { series: named } = namedSeries(source, series);
    if (!named) return "left by a rule";
    if (!isStorableSeries(named)) return unstorable;
    const key = seriesKey(named.counter, named.tags);
    if (keys.has(key)) return "the same as another series after the rules";
    if (keys.size >= limits.seriesPerSource) return `more than ${limits.seriesPerSource} series of one source`;
    keys.add(key);
    return null;
  });
  let taken = 0;
  for (let i = 0; i < page.length; i++) {
    const reason = why[page.which[i] as number];
    if (reason) leftOut[reason] = (leftOut[reason] ?? 0) + 1;
    else taken++;
  }
  const series = reader.series.slice(0, mostShown).map((sent, index): TriedSeries => {
    const { series: made, factor } = namedSeries(source, sent);
    const value = latest.get(index);
    return {
      sent,
      made:
        why[index] || !made
          ? null
          : (({ counter, unit, kind, tags: { machine: _, ...tags } }: FileSeries) => ({ counter, unit, kind, tags }))(
              made,
            ),
      why: why[index] ?? null,
      value: value === undefined || !Number.isFinite(value) ? null : value * factor,
      help: reader.help.get(sent.counter) ?? "",
    };
  });
  return { kind: "page", ...about, found: page.found, taken, leftOut, series };
}
