import { numberText, parseNumber } from "../../text/number-text.ts";
import type { FileSeries } from "../../pages/file-series.ts";
import { TextError } from "../../pages/text-error.ts";
import { csvField, guardedText } from "../csv/csv-line.ts";
import { csvRows } from "../csv/csv-rows.ts";
import { type CounterKind, counterKinds } from "../../counters/counter.ts";
import type { SampleReader, SampleWriter, TakeSample } from "./sample-format.ts";

const columns = ["time", "counter", "unit", "kind", "tags", "value"];

/** RFC 4180: a header, then a line a sample; times in ISO 8601, tags as a JSON object. */
export class CsvWriter implements SampleWriter {
  head(): string {
    return `${columns.join(",")}\r\n`;
  }

  series(
    { counter, tags, unit, kind }: FileSeries,
    { timeMs, value }: { readonly timeMs: Float64Array; readonly value: Float64Array },
  ): string {
    const middle = [counter, unit, kind, JSON.stringify(tags)].map(quoted).join(",");
    let text = "";
    for (let i = 0; i < timeMs.length; i++)
      text += `${new Date(timeMs[i] as number).toISOString()},${middle},${numberText(value[i] as number)}\r\n`;
    return text;
  }

  end(): string {
    return "";
  }
}

export class CsvReader implements SampleReader {
  readonly #take: TakeSample;
  readonly #series = new Map<string, FileSeries>();
  #line = 0;
  /** A field in quotes may go over several lines: those read of it. */
  #open: string[] = [];
  #openBytes = 0;

  constructor(take: TakeSample) {
    this.#take = take;
  }

  line(text: string): void {
    this.#line++;
    const own = text.endsWith("\r") ? text.slice(0, -1) : text;
    // An odd number of quotes opens a field that goes on, or closes it.
    if (hasOddQuotes(own) === (this.#open.length === 0)) {
      this.#open.push(own);
      this.#openBytes += own.length;
      if (this.#openBytes > mostOfRecord)
        throw new TextError(
          `a field in quotes goes on for more than ${mostOfRecord} signs: a quote is missing`,
          this.#line - this.#open.length + 1,
        );
      return;
    }
    const whole = this.#open.length === 0 ? own : [...this.#open, own].join("\n");
    this.#open = [];
    this.#openBytes = 0;
    const fields = this.#fields(whole);
    if (this.#line === 1) {
      if (fields.join() !== columns.join())
        throw new TextError(`the header is "${fields.join()}", it should be "${columns.join()}"`, 1);
      return;
    }
    if (fields.length !== columns.length)
      throw new TextError(`${fields.length} fields, there should be ${columns.length}`, this.#line);
    const [time, sentCounter, sentUnit, kind, tags, value] = fields as [string, string, string, string, string, string];
    const [counter, unit] = [unguarded(sentCounter), unguarded(sentUnit)];
    const key = [counter, unit, kind, tags].join("\n");
    let series = this.#series.get(key);
    if (!series)
      this.#series.set(key, (series = { counter, unit, kind: this.#kind(kind), tags: parseTags(tags, this.#line) }));
    const timeMs = Date.parse(time);
    const v = parseNumber(value);
    if (Number.isNaN(timeMs))
      throw new TextError(`time "${time}" is not an ISO 8601 time such as 2026-11-23T16:00:00.000Z`, this.#line, 1);
    if (v === undefined) throw new TextError(`value "${value}" is not a number`, this.#line);
    this.#take(series, timeMs, v);
  }

  end(): void {
    if (this.#open.length > 0) throw new TextError("a field in quotes is not closed", this.#line);
  }

  #kind(text: string): CounterKind {
    const kind = counterKinds.find((one) => one === text);
    if (!kind) throw new TextError(`kind "${text}" is none of ${counterKinds.join(", ")}`, this.#line);
    return kind;
  }

  #fields(text: string): readonly string[] {
    const began = this.#line - (text.split("\n").length - 1);
    try {
      for (const { fields } of csvRows(text)) return fields;
      return [""];
    } catch (error) {
      if (!(error instanceof TextError)) throw error;
      throw new TextError(error.plain, began + error.line - 1, error.column);
    }
  }
}

const unguarded = (text: string): string => {
  const bare = text.startsWith("'") ? text.slice(1) : text;
  return bare.startsWith("'") || guardedText(bare) !== bare ? bare : text;
};

/** A record of a counter with its tags is far shorter. */
const mostOfRecord = 1_000_000;

function hasOddQuotes(text: string): boolean {
  let isOdd = false;
  for (let at = text.indexOf('"'); at >= 0; at = text.indexOf('"', at + 1)) isOdd = !isOdd;
  return isOdd;
}

/** Tags as a JSON object of texts. */
export function parseTags(text: string | undefined, line: number): Readonly<Record<string, string>> {
  let tags: unknown;
  try {
    tags = JSON.parse(text ?? "");
  } catch {
    tags = undefined;
  }
  if (
    typeof tags !== "object" ||
    tags === null ||
    Array.isArray(tags) ||
    Object.values(tags).some((v) => typeof v !== "string")
  )
    throw new TextError(`tags "${(text ?? "").slice(0, 60)}" are not a JSON object of texts`, line);
  return tags as Readonly<Record<string, string>>;
}

/** As a spreadsheet shows it as a text; one that begins with an apostrophe itself is led by a second one. */
const quoted = (text: string): string => csvField(text.startsWith("'") ? `'${text}` : guardedText(text));
