import type { ReadingAnswer } from "../../../core/reading/document.ts";
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
  return [head, ...rows]
    .map((row) => row.map(field).join(","))
    .join("\r\n")
    .concat("\r\n");
}

/** A field that could be taken for a formula by a spreadsheet is led by an apostrophe; numbers are left as they are. */
function field(value: string | number): string {
  if (typeof value === "number") return String(value);
  const safe = /^[=+\-@\t\r]/.test(value) ? `'${value}` : value;
  return /[",\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
}
