/**
 * What stands in a cell: words, a number, or a moment as ms since 1970 in a column of times; null where nothing does.
 */
export type Cell = string | number | null;

export interface Column {
  /** Unique in its table. */
  readonly name: string;
  /** Words and times label; numbers are drawn. */
  readonly kind: "text" | "number" | "time";
  /** Of numbers, UCUM. */
  readonly unit?: string;
}

/** A table of one's own, kept with what draws it. */
export interface Table {
  readonly columns: readonly Column[];
  /** One cell a column. */
  readonly rows: readonly (readonly Cell[])[];
}

/** So much is kept with a dashboard; more belongs into the store, by an import of samples. */
export const mostRows = 2000;
export const mostColumns = 40;

/** What a row is called: its words and times, or its number. */
export function rowName({ columns }: Table, row: readonly Cell[], index: number): string {
  const labels = columns.flatMap(({ kind }, i) => {
    const cell = row[i] ?? null;
    if (kind === "number" || cell === null) return [];
    return [kind === "time" ? timeText(Number(cell)) : String(cell)];
  });
  return labels.filter((label) => label !== "").join(" ") || `row ${index + 1}`;
}

/** A moment as ISO 8601 in UTC, without what is zero: "2026-11-24", "2026-11-24 05:10". */
export function timeText(ms: number): string {
  const text = new Date(ms).toISOString();
  if (ms % 86_400_000 === 0) return text.slice(0, 10);
  return `${text.slice(0, 10)} ${ms % 60_000 === 0 ? text.slice(11, 16) : text.slice(11, 19)}`;
}
