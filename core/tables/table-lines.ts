import type { Line, ReadingAnswer } from "../reading/document.ts";
import type { Table } from "./table.ts";

/**
 * A table with a column of times as lines over a window: one a number's column and row of words. Steps are as long as
 * the least distance
 * of the table's times, or longer so that there are at most `points`; several rows in one step give their mean. Null
 * where the table has
 * no times or no numbers.
 */
export function linesOfTable(
  table: Table,
  window: { readonly from: number; readonly to: number },
  points: number,
): ReadingAnswer | null {
  const timeAt = table.columns.findIndex(({ kind }) => kind === "time");
  const numbersAt = table.columns.flatMap(({ kind }, i) => (kind === "number" ? [i] : []));
  if (timeAt < 0 || numbersAt.length === 0) return null;
  const labelsAt = table.columns.flatMap(({ kind }, i) => (kind === "text" ? [i] : []));
  const times = [...new Set(table.rows.flatMap((row) => (row[timeAt] === null ? [] : [Number(row[timeAt])])))].sort(
    (a, b) => a - b,
  );
  const apart = times.slice(1).reduce((least, time, i) => Math.min(least, time - times[i]), Number.POSITIVE_INFINITY);
  const stepMs = Math.max(
    1000,
    Math.ceil((window.to - window.from) / Math.max(1, points)),
    Number.isFinite(apart) ? apart : 0,
  );
  const from = Math.floor(window.from / stepMs) * stepMs;
  const count = Math.max(1, Math.ceil((window.to - from) / stepMs));
  const lines = new Map<
    string,
    {
      readonly tags: Record<string, string>;
      readonly at: number;
      readonly sums: Float64Array;
      readonly counts: Uint32Array;
    }
  >();
  for (const row of table.rows) {
    const time = row[timeAt];
    if (time === null || time === undefined) continue;
    const step = Math.floor((Number(time) - from) / stepMs);
    if (step < 0 || step >= count || Number(time) >= window.to) continue;
    const tags = Object.fromEntries(labelsAt.map((i) => [table.columns[i]?.name ?? "", String(row[i] ?? "")]));
    for (const at of numbersAt) {
      const value = row[at];
      if (typeof value !== "number") continue;
      const key = `${at} ${JSON.stringify(tags)}`;
      const line = lines.get(key) ?? { tags, at, sums: new Float64Array(count), counts: new Uint32Array(count) };
      lines.set(key, line);
      line.sums[step] = line.sums[step] + value;
      line.counts[step] = line.counts[step] + 1;
    }
  }
  return {
    from,
    stepMs,
    count,
    tier: "raw",
    lines: [...lines.values()].map(({ tags, at, sums, counts }): Line => {
      const values = Array.from(sums, (sum, i) => (counts[i] === 0 ? null : sum / counts[i]));
      const known = values.filter((value) => value !== null);
      const column = table.columns[at];
      return {
        of: column?.name ?? "",
        tags,
        unit: column?.unit ?? "1",
        values,
        last: known.at(-1) ?? null,
        min: known.length > 0 ? Math.min(...known) : null,
        max: known.length > 0 ? Math.max(...known) : null,
        mean: known.length > 0 ? known.reduce((a, b) => a + b, 0) / known.length : null,
      };
    }),
    notes: [],
  };
}

/** From the first to the last moment of a table's times; undefined where it has none. */
export function spanOfTable(table: Table): { readonly from: number; readonly to: number } | undefined {
  const at = table.columns.findIndex(({ kind }) => kind === "time");
  const times = at < 0 ? [] : table.rows.flatMap((row) => (row[at] === null ? [] : [Number(row[at])]));
  return times.length === 0 ? undefined : { from: Math.min(...times), to: Math.max(...times) };
}
