import { cellOf } from "./read-cell.ts";
import { type Column, mostColumns, mostRows, type Table } from "./table.ts";

/** What is typed into a cell; the table itself where it cannot be read as its column's kind. */
export function changedCell(table: Table, row: number, at: number, text: string): Table {
  const kind = table.columns[at]?.kind ?? "text";
  const cell = cellOf(text, kind);
  if (cell === undefined) return table;
  return {
    ...table,
    rows: table.rows.map((cells, i) => (i === row ? cells.map((one, k) => (k === at ? cell : one)) : cells)),
  };
}

/** Another name or unit of a column. A name that is empty or another column's is not taken; an empty unit is none. */
export function changedColumn(
  table: Table,
  at: number,
  change: { readonly name?: string; readonly unit?: string },
): Table {
  const name = change.name?.trim();
  if (name === "" || table.columns.some((column, i) => i !== at && column.name === name)) return table;
  const columns = table.columns.map((column, i): Column => {
    if (i !== at) return column;
    const { unit, ...rest } = column;
    const next = change.unit ?? unit ?? "";
    return { ...rest, ...(name !== undefined && { name }), ...(next !== "" && { unit: next }) };
  });
  return { ...table, columns };
}

/** A column that holds something else; cells that cannot be read so become empty. */
export function retypedColumn(table: Table, at: number, kind: Column["kind"]): Table {
  const columns = table.columns.map(
    (column, i): Column =>
      i === at
        ? { name: column.name, kind, ...(kind === "number" && column.unit !== undefined && { unit: column.unit }) }
        : column,
  );
  return {
    columns,
    rows: table.rows.map((cells) =>
      cells.map((cell, i) =>
        i === at && cell !== null ? (cellOf(cellText(cell, table.columns[at]?.kind), kind) ?? null) : cell,
      ),
    ),
  };
}

/** With an empty row at its end. */
export function withRow(table: Table): Table {
  return table.rows.length >= mostRows ? table : { ...table, rows: [...table.rows, table.columns.map(() => null)] };
}

export function withoutRow(table: Table, row: number): Table {
  return { ...table, rows: table.rows.filter((_, i) => i !== row) };
}

/** With an empty column of numbers at its end. */
export function withColumn(table: Table): Table {
  if (table.columns.length >= mostColumns) return table;
  const names = new Set(table.columns.map(({ name }) => name));
  let n = table.columns.length + 1;
  while (names.has(`column ${n}`)) n++;
  return {
    columns: [...table.columns, { name: `column ${n}`, kind: "number" }],
    rows: table.rows.map((cells) => [...cells, null]),
  };
}

export function withoutColumn(table: Table, at: number): Table {
  return {
    columns: table.columns.filter((_, i) => i !== at),
    rows: table.rows.map((cells) => cells.filter((_, i) => i !== at)),
  };
}

const cellText = (cell: string | number, kind: Column["kind"] | undefined): string =>
  kind === "time" ? new Date(Number(cell)).toISOString() : String(cell);
