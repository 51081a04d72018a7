import { csvLine } from "../formats/csv/csv-line.ts";
import { type Cell, type Table, timeText } from "./table.ts";

/**
 * A table as delimited text (RFC 4180): its columns' names with their units, then a row a line. Read again it is the
 * same table.
 */
export function writeTable({ columns, rows }: Table, delimiter = ","): string {
  const head = columns.map(({ name, unit }) => (unit === undefined ? name : `${name} [${unit}]`));
  const text = (cell: Cell, at: number) =>
    cell === null ? "" : columns[at]?.kind === "time" ? timeText(Number(cell)) : String(cell);
  return [head, ...rows.map((row) => row.map(text))].map((row) => csvLine(row, delimiter)).join("");
}
