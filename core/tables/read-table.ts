import { type CsvRow, csvRows } from "../formats/csv/csv-rows.ts";
import { cellNumber } from "../formats/csv/cell.ts";
import { parseTimeText, type TimeForm } from "../formats/csv/time-text.ts";
import { TextError } from "../pages/text-error.ts";
import { formsOf } from "./read-cell.ts";
import { type Cell, type Column, mostColumns, mostRows, type Table } from "./table.ts";

/** How a text is read as a table; what is left out is found. */
export interface TableReading {
  readonly delimiter?: string;
  /** Whether the first row holds the columns' names. */
  readonly heading?: boolean;
  /** What columns hold, by name, where it is not as found. */
  readonly kinds?: Readonly<Record<string, Column["kind"]>>;
}

/** A table and how it was read, for a person to confirm. */
export interface ReadTable {
  readonly table: Table;
  readonly delimiter: string;
  readonly heading: boolean;
  readonly decimal: "." | ",";
  /** What a person should know of it, in sentences. */
  readonly notes: readonly string[];
}

export const delimiters = [
  [",", "comma"],
  [";", "semicolon"],
  ["\t", "tab"],
  ["|", "upright line"],
] as const;
/** "fill [%]": a heading may say its unit. */
const withUnit = /^(.*?)\s*\[([^\]]+)\]$/;

/**
 * Reads delimited text (RFC 4180, or with another delimiter) as a table. A column is of numbers or of times where every
 * cell that is not
 * empty is one. Throws TextError with line and column where the text breaks its own form, or is larger than is kept.
 */
export function readTable(text: string, wanted: TableReading = {}): ReadTable {
  const delimiter = wanted.delimiter ?? delimiterOf(text);
  const all = [...csvRows(text, delimiter)];
  const [first] = all;
  if (!first) throw new TextError("the table is empty: its rows should stand here", 1);
  const width = first.fields.length;
  if (width > mostColumns)
    throw new TextError(`${width} columns; a dashboard keeps ${mostColumns} at most`, first.line);
  for (const { line, fields } of all)
    if (fields.length !== width)
      throw new TextError(
        `${fields.length} ${fields.length === 1 ? "field" : "fields"}, the first row has ${width}`,
        line,
      );
  const decimal = decimalOf(all);
  const isWord = (cell: string) => cellNumber(cell, decimal) === undefined && formsOf([cell]).length === 0;
  const heading =
    wanted.heading ??
    (all.length > 1 &&
      first.fields.every((cell) => cell.trim() === "" || isWord(cell)) &&
      first.fields.some((cell) => cell.trim() !== ""));
  const data = heading ? all.slice(1) : all;
  if (data.length > mostRows)
    throw new TextError(
      `${data.length} rows; a dashboard keeps ${mostRows} at most. Import it as samples instead`,
      data[mostRows]?.line ?? 1,
    );
  const notes: string[] = [];
  const said = first.fields
    .map((cell, i) => (heading && cell.trim() !== "" ? cell.trim() : `column ${i + 1}`))
    .map((full) => ({ bare: withUnit.exec(full)?.[1] || full, unit: withUnit.exec(full)?.[2] }));
  const read = uniqueNames(said.map(({ bare }) => bare)).map((name, i) => {
    const cells = data.map(({ fields }) => (fields[i] as string).trim());
    const unit = said[i]?.unit;
    const forms = formsOf(cells);
    const numbers = cells.map((cell) => (cell === "" ? null : (cellNumber(cell, decimal) ?? undefined)));
    const isNumbers = !numbers.includes(undefined) && numbers.some((cell) => cell !== null);
    const found: Column["kind"] = isNumbers ? "number" : forms.length > 0 ? "time" : "text";
    const kind = wanted.kinds?.[name] ?? found;
    if (kind === "time" && forms.length > 1)
      notes.push(`The times of "${name}" can be read as ${forms.join(" or as ")}; they are read as ${forms[0]}.`);
    const column: Column = { name, kind, ...(kind === "number" && unit !== undefined && { unit }) };
    return { column, values: cells.map((cell, row): Cell => cellOf(cell, kind, numbers[row], forms[0])) };
  });
  const lost = read.flatMap(({ column, values }, i) =>
    column.kind === "text"
      ? []
      : values.filter((value, row) => value === null && data[row]?.fields[i]?.trim() !== "").length > 0
        ? [column.name]
        : [],
  );
  if (lost.length > 0) notes.push(`Some cells of ${lost.join(", ")} cannot be read so; they count as empty.`);
  return {
    table: {
      columns: read.map(({ column }) => column),
      rows: data.map((_, row) => read.map(({ values }) => values[row] ?? null)),
    },
    delimiter,
    heading,
    decimal,
    notes,
  };
}

function cellOf(
  cell: string,
  kind: Column["kind"],
  number: number | null | undefined,
  form: TimeForm | undefined,
): Cell {
  if (cell === "") return null;
  if (kind === "text") return cell;
  if (kind === "number") return number ?? null;
  return (form === undefined ? undefined : parseTimeText(cell, form, 0)) ?? null;
}

/** The delimiter that gives every row the same number of fields, and most of them; a comma where none does. */
function delimiterOf(text: string): string {
  const widths = delimiters.map(([delimiter]) => {
    try {
      const rows = [...csvRows(text, delimiter)].map(({ fields }) => fields.length);
      const width = rows[0] ?? 0;
      return { delimiter, width: rows.every((n) => n === width) ? width : 0 };
    } catch {
      return { delimiter, width: 0 };
    }
  });
  const best = widths.reduce((a, b) => (b.width > a.width ? b : a));
  if (best.width > 1) return best.delimiter;
  // Rows differ in length with each: the first row says what was meant, and reading tells where it breaks.
  const line = text.slice(0, Math.max(0, text.indexOf("\n")) || text.length);
  return delimiters
    .map(([delimiter]) => delimiter)
    .reduce((a, b) => (line.split(b).length > line.split(a).length ? b : a));
}

function decimalOf(rows: readonly CsvRow[]): "." | "," {
  const cells = rows.flatMap(({ fields }) => fields.map((cell) => cell.trim()));
  return cells.some((cell) => /^-?\d+,\d+$/.test(cell)) && !cells.some((cell) => /^-?\d+\.\d+$/.test(cell)) ? "," : ".";
}

function uniqueNames(names: readonly string[]): readonly string[] {
  const taken = new Set<string>();
  return names.map((name) => {
    let one = name;
    for (let n = 2; taken.has(one); n++) one = `${name} ${n}`;
    taken.add(one);
    return one;
  });
}
