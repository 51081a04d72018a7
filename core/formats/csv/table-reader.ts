import type { CounterKind } from "../../counters/counter.ts";
import { seriesKey } from "../../counters/series-key.ts";
import type { Page } from "../exposition/page-reader.ts";
import { counterKinds, type FileSeries, TextError } from "../samples/sample-format.ts";
import { counterLogHeader, counterLogSeries } from "./counter-log.ts";
import { csvRows } from "./csv-rows.ts";
import { cellNumber, longColumns, type TableShape } from "./table-shape.ts";
import { parseTimeText } from "./time-text.ts";


/** Reads tables into pages, by the shape that was found or confirmed. Cells without a number are counted, tables that break their own form are refused whole. */
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
    const read = this.#rowReader(heading, shape);
    for (const { line, fields } of rows) {
      if (fields.length > heading.length || (fields.length < heading.length && fields.length < 2)) throw new TextError(`${fields.length} fields, the heading has ${heading.length}`, line);
      read(fields, line);
    }
    const length = this.#which.length;
    const left = [...this.#leftOut.values()].reduce((sum, n) => sum + n, 0);
    return { which: Uint32Array.from(this.#which), timeMs: Float64Array.from(this.#timeMs), value: Float64Array.from(this.#value), length, found: length + left, leftOut: this.#leftOut };
  }

  #rowReader(heading: readonly string[], shape: TableShape): (fields: readonly string[], line: number) => void {
    const timeColumn = shape.layout === "counter log" ? 0 : heading.indexOf(shape.timeColumn);
    if (timeColumn < 0) throw new TextError(`there is no column "${shape.timeColumn}" for the time; there are ${heading.join(", ").slice(0, 200)}`, 1);
    const log = counterLogHeader(heading[0] ?? "");
    if (shape.layout === "counter log" && !log) throw new TextError(`the first heading is ${JSON.stringify(heading[0])}, a counter log begins with (PDH-CSV 4.0)`, 1, 1);
    const offset = log?.biasMinutes === undefined ? shape.offsetMinutes : -log.biasMinutes;
    const timeOf = (fields: readonly string[], line: number): number => {
      const ms = parseTimeText(fields[timeColumn] ?? "", shape.timeForm, offset);
      if (ms === undefined) throw new TextError(`${JSON.stringify(fields[timeColumn] ?? "")} is not a time written as ${shape.timeForm}`, line, columnOf(fields, timeColumn));
      return ms;
    };
    if (shape.layout === "long") return this.#longRow(heading, shape, timeOf);
    const columns = heading.map((name, i) => (i === timeColumn ? undefined : shape.layout === "counter log" ? counterLogSeries(name) : headingSeries(name)));
    return (fields, line) => {
      const timeMs = timeOf(fields, line);
      // Cells with words, in a table of one's own, tell rows apart: they are tags.
      const words = new Map<string, string>();
      if (shape.layout === "wide") fields.forEach((text, i) => {
        if (i !== timeColumn && text.trim() !== "" && cellNumber(text, shape.decimal) === undefined) words.set((columns[i] as FileSeries).counter, text.trim());
      });
      fields.forEach((text, i) => {
        const series = columns[i];
        if (i === timeColumn) return;
        if (!series) this.#leave("not a counter's path");
        else if (text.trim() === "") this.#leave("an empty cell");
        else if (!words.has(series.counter)) this.#put({ ...series, tags: { ...series.tags, ...Object.fromEntries(words) } }, timeMs, cellNumber(text, shape.decimal));
      });
    };
  }

  #longRow(heading: readonly string[], shape: TableShape, timeOf: (fields: readonly string[], line: number) => number): (fields: readonly string[], line: number) => void {
    const place = (pattern: RegExp) => heading.findIndex((name) => pattern.test(name));
    const at = { counter: place(longColumns.counter), value: place(longColumns.value), unit: place(longColumns.unit), kind: place(longColumns.kind), tags: place(longColumns.tags) };
    if (at.counter < 0 || at.value < 0) throw new TextError("a long table needs a column for the counter and one for the value", 1);
    const others = heading.map((name, i) => [name, i] as const).filter(([name, i]) => !Object.values(at).includes(i) && name !== shape.timeColumn);
    return (fields, line) => {
      const cell = (i: number) => (i < 0 ? "" : (fields[i] ?? "").trim());
      const timeMs = timeOf(fields, line);
      const counter = cell(at.counter);
      if (counter === "") throw new TextError("the counter has no name", line, columnOf(fields, at.counter));
      const kind = cell(at.kind) || "level";
      if (!counterKinds.includes(kind as CounterKind)) throw new TextError(`kind ${JSON.stringify(kind)} is none of ${counterKinds.join(", ")}`, line, columnOf(fields, at.kind));
      const tags = { ...tagsOf(cell(at.tags), line, columnOf(fields, at.tags)), ...Object.fromEntries(others.filter(([, i]) => cell(i) !== "").map(([name, i]) => [name, cell(i)])) };
      if (cell(at.value) === "") this.#leave("an empty cell");
      else this.#put({ counter, unit: cell(at.unit) || "1", kind: kind as CounterKind, tags }, timeMs, cellNumber(cell(at.value), shape.decimal));
    };
  }

  #put(series: FileSeries, timeMs: number, value: number | undefined): void {
    if (value === undefined || Number.isNaN(value)) {
      this.#leave("not a number");
      return;
    }
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

/** "temperature [Cel]": a heading may say its unit in brackets at its end. */
function nameAndUnit(heading: string): { readonly name: string; readonly unit: string } {
  const close = heading.length - 1;
  const open = heading.endsWith("]") ? heading.indexOf("[", heading.lastIndexOf("]", close - 1) + 1) : -1;
  if (open < 0 || open === close - 1) return { name: heading, unit: "1" };
  return { name: heading.slice(0, open).trimEnd(), unit: heading.slice(open + 1, close) };
}

function headingSeries(heading: string): FileSeries {
  const { name, unit } = nameAndUnit(heading);
  return { counter: name.trim().replace(/\s+/g, "_") || "value", unit, kind: "level", tags: {} };
}

function tagsOf(text: string, line: number, column: number): Record<string, string> {
  if (text === "") return {};
  try {
    const tags: unknown = JSON.parse(text);
    if (typeof tags === "object" && tags !== null && !Array.isArray(tags) && Object.values(tags).every((value) => typeof value === "string")) return tags as Record<string, string>;
  } catch {
    // told below
  }
  throw new TextError("tags are not a JSON object of texts", line, column);
}

/** Where a field begins, about: quotes are not counted. */
function columnOf(fields: readonly string[], i: number): number {
  return fields.slice(0, Math.max(0, i)).reduce((sum, field) => sum + field.length + 1, 1);
}
