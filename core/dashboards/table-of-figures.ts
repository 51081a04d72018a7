import type { ShownFigures } from "./shown-figures.ts";
import { type Column, mostColumns, mostRows, type Table } from "../tables/table.ts";

/**
 * Single figures as a table to be kept: a row for each of theirs, its name first, then a column of numbers for each
 * sentence. What goes beyond a table's size is left out.
 */
export function tableOfFigures({ columns, rows }: ShownFigures): Table {
  const numbers = columns.slice(0, mostColumns - 1);
  return {
    columns: [
      { name: "line", kind: "text" },
      ...numbers.map(
        ({ name, unit }): Column => ({
          name: name === "line" ? "line's value" : name,
          kind: "number",
          ...(unit !== "1" && { unit }),
        }),
      ),
    ],
    rows: rows.slice(0, mostRows).map(({ name, values }) => [name, ...values.slice(0, numbers.length)]),
  };
}
