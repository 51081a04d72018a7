import { type CounterKind, counterKinds } from "../../counters/counter.ts";
import { seriesKey } from "../../counters/series-key.ts";
import type { Page } from "../../pages/page.ts";
import type { FileSeries } from "../../pages/file-series.ts";
import { TextError } from "../../pages/text-error.ts";
import { readCell } from "./cell.ts";
import { headingParts, sameColumns, tagColumns } from "./columns.ts";
import { counterLogHeader, counterLogSeries } from "../windows/counter-log.ts";
import { type CsvRow, csvRows } from "./csv-rows.ts";
import { longColumns, looksAtRows, type TableShape } from "./table-shape.ts";
import { parseTimeText } from "./time-text.ts";

/**
 * Reads tables into pages, by the shape that was found or confirmed. Cells without a number are counted, tables that
 * break their own form are refused whole.
 */
export class TableReader {
  readonly series: FileSeries[] = [];
  readonly help: ReadonlyMap<string, string> = new Map();
  readonly #indexes = new Map<string, number>();
  #which: number[] = [];
  #timeMs: number[] = [];
  #value: number[] = [];
  #leftOut = new Map<string, number>();
  readonly #mostNewSeries: number;
  #newSeries = 0;

  /** A table that has more series for the first time loses those beyond; they are counted. */
  constructor(mostNewSeries = 50_000) {
    this.#mostNewSeries = mostNewSeries;
  }

  /** Throws TextError with line and column. */
  read(text: string, shape: TableShape): Page {
    this.#which = [];
    this.#timeMs = [];
    this.#value = [];
    this.#leftOut = new Map();
    this.#newSeries = 0;
    const rows = csvRows(text, shape.delimiter);
    const first = rows.next();
    if (first.done) throw new TextError("the table is empty: a heading should stand here", 1);
    const heading = first.value.fields.map((name) => name.trim());
    const read = this.#rowReader(heading, shape, text);
    for (const { line, fields } of rows) {
      if (fields.length > heading.length || (fields.length < heading.length && fields.length < 2))
        throw new TextError(`${fields.length} fields, the heading has ${heading.length}`, line);
      read(fields, line);
    }
    const length = this.#which.length;
    const left = [...this.#leftOut.values()].reduce((sum, n) => sum + n, 0);
    return {
      which: Uint32Array.from(this.#which),
      timeMs: Float64Array.from(this.#timeMs),
      value: Float64Array.from(this.#value),
      length,
      found: length + left,
      leftOut: this.#leftOut,
    };
  }

  #rowReader(
    heading: readonly string[],
    shape: TableShape,
    text: string,
  ): (fields: readonly string[], line: number) => void {
    const timeColumn = shape.layout === "counter log" ? 0 : heading.indexOf(shape.timeColumn);
    if (timeColumn < 0)
      throw new TextError(
        `there is no column "${shape.timeColumn}" for the time; there are ${heading.join(", ").slice(0, 200)}`,
        1,
      );
    const same = shape.layout === "counter log" ? undefined : sameColumns(heading);
    if (same)
      throw new TextError(
        `columns ${same.first} and ${same.second} are both called ${JSON.stringify(same.name)}: give each a name of its own`,
        1,
      );
    const log = counterLogHeader(heading[0] ?? "");
    if (shape.layout === "counter log" && !log)
      throw new TextError(
        `the first heading is ${JSON.stringify(heading[0])}, a counter log begins with (PDH-CSV 4.0)`,
        1,
        1,
      );
    const offset = log?.biasMinutes === undefined ? shape.offsetMinutes : -log.biasMinutes;
    const timeOf = (fields: readonly string[], line: number): number => {
      const ms = parseTimeText(fields[timeColumn] ?? "", shape.timeForm, offset);
      if (ms === undefined)
        throw new TextError(
          `${JSON.stringify(fields[timeColumn] ?? "")} is not a time written as ${shape.timeForm}`,
          line,
          columnOf(fields, timeColumn),
        );
      return ms;
    };
    if (shape.layout === "long") return this.#longRow(heading, shape, timeOf);
    if (shape.layout === "counter log") return this.#logRow(heading, shape, timeOf);
    const tags = new Set(
      shape.tags ?? tagColumns(heading, firstRows(text, shape.delimiter), timeColumn, shape.decimal).tags,
    );
    const columns = heading.map((name, i) => (i === timeColumn || tags.has(name) ? undefined : headingSeries(name)));
    const tagNames = heading.map((name, i) =>
      i !== timeColumn && tags.has(name) ? headingParts(name).counter : undefined,
    );
    return (fields, line) => {
      const timeMs = timeOf(fields, line);
      const own = Object.fromEntries(
        tagNames.flatMap((name, i) =>
          name !== undefined && (fields[i] ?? "").trim() !== "" ? [[name, (fields[i] as string).trim()]] : [],
        ),
      );
      columns.forEach((series, i) => {
        if (series && i < fields.length) this.#putCell({ ...series, tags: own }, timeMs, fields[i] as string, shape);
      });
    };
  }

  #logRow(
    heading: readonly string[],
    shape: TableShape,
    timeOf: (fields: readonly string[], line: number) => number,
  ): (fields: readonly string[], line: number) => void {
    const seen = new Set<string>();
    const columns = heading.map((name, i) => {
      const series = i === 0 ? undefined : counterLogSeries(name);
      if (!series) return i === 0 ? undefined : "not a counter's path";
      const key = seriesKey(series.counter, series.tags);
      if (seen.has(key)) return "a column that stands twice";
      seen.add(key);
      return series;
    });
    return (fields, line) => {
      const timeMs = timeOf(fields, line);
      columns.forEach((series, i) => {
        if (series === undefined || i >= fields.length) return;
        if (typeof series === "string") this.#leave(series);
        else this.#putCell(series, timeMs, fields[i] as string, shape);
      });
    };
  }

  #longRow(
    heading: readonly string[],
    shape: TableShape,
    timeOf: (fields: readonly string[], line: number) => number,
  ): (fields: readonly string[], line: number) => void {
    const place = (pattern: RegExp) => heading.findIndex((name) => pattern.test(name));
    const at = {
      counter: place(longColumns.counter),
      value: place(longColumns.value),
      unit: place(longColumns.unit),
      kind: place(longColumns.kind),
      tags: place(longColumns.tags),
    };
    if (at.counter < 0 || at.value < 0)
      throw new TextError("a long table needs a column for the counter and one for the value", 1);
    const others = heading
      .map((name, i) => [name, i] as const)
      .filter(([name, i]) => !Object.values(at).includes(i) && name !== shape.timeColumn);
    return (fields, line) => {
      const cell = (i: number) => (i < 0 ? "" : (fields[i] ?? "").trim());
      const timeMs = timeOf(fields, line);
      const counter = cell(at.counter);
      if (counter === "") throw new TextError("the counter has no name", line, columnOf(fields, at.counter));
      const kind = cell(at.kind) || "level";
      if (!counterKinds.includes(kind as CounterKind))
        throw new TextError(
          `kind ${JSON.stringify(kind)} is none of ${counterKinds.join(", ")}`,
          line,
          columnOf(fields, at.kind),
        );
      const tags = {
        ...tagsOf(cell(at.tags), line, columnOf(fields, at.tags)),
        ...Object.fromEntries(others.filter(([, i]) => cell(i) !== "").map(([name, i]) => [name, cell(i)])),
      };
      this.#putCell(
        { counter, unit: cell(at.unit) || "1", kind: kind as CounterKind, tags },
        timeMs,
        cell(at.value),
        shape,
      );
    };
  }

  /** 45 % is 0.45, but where the heading says that its values are per cent. */
  #putCell(series: FileSeries, timeMs: number, text: string, { decimal }: TableShape): void {
    const cell = readCell(text, decimal);
    if (cell.is === "number")
      this.#put(series, timeMs, cell.isPercent && series.unit !== "%" ? cell.value / 100 : cell.value);
    else
      this.#leave(
        cell.is === "empty"
          ? "an empty cell"
          : cell.is === "nothing"
            ? "a cell that says there is no value"
            : "not a number",
      );
  }

  #put(series: FileSeries, timeMs: number, value: number): void {
    const key = seriesKey(series.counter, series.tags);
    let index = this.#indexes.get(key);
    if (index === undefined) {
      if (this.#newSeries++ >= this.#mostNewSeries) {
        this.#leave("more new series than a page may have");
        return;
      }
      this.#indexes.set(key, (index = this.series.push(series) - 1));
    }
    this.#which.push(index);
    this.#timeMs.push(timeMs);
    this.#value.push(value);
  }

  #leave(reason: string): void {
    this.#leftOut.set(reason, (this.#leftOut.get(reason) ?? 0) + 1);
  }
}

function headingSeries(heading: string): FileSeries {
  const { counter, unit } = headingParts(heading);
  return { counter, unit: unit ?? "1", kind: "level", tags: {} };
}

function firstRows(text: string, delimiter: string): CsvRow[] {
  const rows: CsvRow[] = [];
  for (const row of csvRows(text, delimiter)) {
    if (rows.push(row) > looksAtRows) break;
  }
  return rows.slice(1);
}

function tagsOf(text: string, line: number, column: number): Record<string, string> {
  if (text === "") return {};
  try {
    const tags: unknown = JSON.parse(text);
    if (
      typeof tags === "object" &&
      tags !== null &&
      !Array.isArray(tags) &&
      Object.values(tags).every((value) => typeof value === "string")
    )
      return tags as Record<string, string>;
  } catch {
    // told below
  }
  throw new TextError("tags are not a JSON object of texts", line, column);
}

/** Where a field begins, about: quotes are not counted. */
function columnOf(fields: readonly string[], i: number): number {
  return fields.slice(0, Math.max(0, i)).reduce((sum, field) => sum + field.length + 1, 1);
}
