import type { ReadingAnswer } from "../../../core/reading/document.ts";
import { csvLine, guardedText } from "../../../core/formats/csv/csv-line.ts";
import type { ChartLine } from "./chart-lines.ts";

/**
 * A chart's numbers as a table (RFC 4180): one row a step with its start (ISO 8601, UTC), one column a line with its
 * unit; a gap is empty.
 */
export function chartCsv(
  { from, stepMs, count, edges }: Pick<ReadingAnswer, "from" | "stepMs" | "count" | "edges">,
  lines: readonly ChartLine[],
): string {
  const head = [
    "time",
    ...lines.map(({ name, line }) => (line.unit === "1" || line.unit === "" ? name : `${name} (${line.unit})`)),
  ];
  const rows = Array.from({ length: count }, (_, i) => [
    new Date(edges?.[i] ?? from + i * stepMs).toISOString(),
    ...lines.map(({ line }) => line.values[i] ?? ""),
  ]);
  // Numbers are left as they are, also those below zero.
  return [head, ...rows]
    .map((row) => csvLine(row.map((cell) => (typeof cell === "number" ? String(cell) : guardedText(cell)))))
    .join("");
}
