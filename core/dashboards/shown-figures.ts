import type { Tags } from "../counters/counter.ts";
import type { Line } from "../reading/document.ts";
import { rowName, type Table } from "../tables/table.ts";

/** Which value of a line's window, or of a table's rows, is shown; "rows": every row for itself. */
export const shownValues = ["last", "first", "min", "max", "mean", "sum", "rows"] as const;
export type ShownValue = (typeof shownValues)[number];

export const shownWords: Readonly<Record<ShownValue, string>> = {
  last: "last",
  first: "first",
  min: "lowest",
  max: "highest",
  mean: "mean",
  sum: "sum",
  rows: "all rows",
};

export interface FigureColumn {
  /** A sentence's name, or a table's column. */
  readonly name: string;
  readonly unit: string;
  /** Over the whole window, or all rows: what an automatic scale is taken from. Null where there is no value. */
  readonly least: number | null;
  readonly most: number | null;
}

interface FigureRow {
  readonly key: string;
  readonly name: string;
  readonly tags: Tags;
  /** One a column. */
  readonly values: readonly (number | null)[];
}

/**
 * Single figures, of lines or of a table: a row for each line or row, a column for each sentence or column of numbers.
 */
export interface ShownFigures {
  readonly columns: readonly FigureColumn[];
  readonly rows: readonly FigureRow[];
  /** Which value they are, in words: "last", "highest", "all rows". */
  readonly shown: string;
}

/**
 * The figure of a line over its window; null where it has no value. A sum is there where the reading asked for sums.
 */
export function figureOfLine({ values, last, min, mean, max, sum }: Line, shows: ShownValue): number | null {
  if (shows === "min") return min;
  if (shows === "max") return max;
  if (shows === "mean") return mean;
  if (shows === "first") return values.find((value) => value !== null) ?? null;
  if (shows === "sum") return sum?.value ?? null;
  return last;
}

/**
 * The figures of lines, those of several sentences side by side: a line stands in the row of every line whose common
 * tags are equal, so
 * that one capacity of a machine serves all of its volumes. `nameOf` names a row by one of its lines.
 */
export function figuresOfLines(
  lines: readonly Line[],
  shows: ShownValue,
  nameOf: (line: Line) => string,
): ShownFigures {
  const present = lines.filter(({ earlier }) => earlier === undefined);
  const names = [...new Set(present.map(({ of }) => of))];
  const columns = names.map((name): FigureColumn => {
    const own = present.filter(({ of }) => of === name);
    const unit = (shows === "sum" ? own.find(({ sum }) => sum)?.sum?.unit : undefined) ?? own[0]?.unit ?? "1";
    if (shows === "sum")
      return {
        name,
        unit,
        least: leastOf(own.map(({ sum }) => sum?.value ?? null)),
        most: mostOf(own.map(({ sum }) => sum?.value ?? null)),
      };
    return { name, unit, least: leastOf(own.map(({ min }) => min)), most: mostOf(own.map(({ max }) => max)) };
  });
  // The sentences with most tags make the rows; others are looked up in them.
  const rows: Line[] = [];
  for (const line of [...present].sort((a, b) => Object.keys(b.tags).length - Object.keys(a.tags).length)) {
    if (!rows.some(({ of, tags }) => of !== line.of && agree(tags, line.tags))) rows.push(line);
  }
  const inOrder = present.filter((line) => rows.includes(line));
  return {
    columns,
    rows: inOrder.map((row) => ({
      key: JSON.stringify([row.of, row.tags]),
      name: nameOf(row),
      tags: row.tags,
      values: names.map((name) => {
        const line = row.of === name ? row : present.find(({ of, tags }) => of === name && agree(tags, row.tags));
        return line ? figureOfLine(line, shows) : null;
      }),
    })),
    shown: shownWords[shows === "rows" ? "last" : shows],
  };
}

/** The figures of a table: every row for itself, or all rows of a column brought to one value. */
export function figuresOfTable(table: Table, shows: ShownValue): ShownFigures {
  const numbers = table.columns.flatMap(({ kind, name, unit }, at) =>
    kind === "number" ? [{ at, name, unit: unit ?? "1" }] : [],
  );
  const cellsOf = (at: number) => table.rows.map((row) => (typeof row[at] === "number" ? row[at] : null));
  const columns = numbers.map(
    ({ at, name, unit }): FigureColumn => ({ name, unit, least: leastOf(cellsOf(at)), most: mostOf(cellsOf(at)) }),
  );
  if (shows !== "rows")
    return {
      columns,
      rows:
        table.rows.length === 0
          ? []
          : [{ key: shows, name: "", tags: {}, values: numbers.map(({ at }) => reduced(cellsOf(at), shows)) }],
      shown: shownWords[shows],
    };
  return {
    columns,
    rows: table.rows.map((row, i) => ({
      key: String(i),
      name: rowName(table, row, i),
      tags: {},
      values: numbers.map(({ at }) => (typeof row[at] === "number" ? row[at] : null)),
    })),
    shown: shownWords.rows,
  };
}

function reduced(cells: readonly (number | null)[], shows: Exclude<ShownValue, "rows">): number | null {
  const known = cells.filter((cell) => cell !== null);
  if (known.length === 0) return null;
  const sum = known.reduce((a, b) => a + b, 0);
  return {
    last: known.at(-1) as number,
    first: known[0] as number,
    min: Math.min(...known),
    max: Math.max(...known),
    mean: sum / known.length,
    sum,
  }[shows];
}

const leastOf = (values: readonly (number | null)[]) =>
  values.reduce((least, value) => (value === null ? least : least === null ? value : Math.min(least, value)), null);
const mostOf = (values: readonly (number | null)[]) =>
  values.reduce((most, value) => (value === null ? most : most === null ? value : Math.max(most, value)), null);

function agree(a: Tags, b: Tags): boolean {
  return Object.entries(a).every(([tag, value]) => b[tag] === undefined || b[tag] === value);
}
