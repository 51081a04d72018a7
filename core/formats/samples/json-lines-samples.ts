import { counterKinds } from "../../counters/counter.ts";
import { numberText, parseNumber } from "../../text/number-text.ts";
import type { FileSeries } from "../../pages/file-series.ts";
import { TextError } from "../../pages/text-error.ts";
import { parseTags } from "./csv-samples.ts";
import type { SampleReader, SampleWriter, TakeSample } from "./sample-format.ts";

const samplesPerLine = 1000;

/**
 * JSON lines: each holds some samples of one series, `times` in ms and `values` beside them. NaN and infinities, which
 * JSON has not, are texts.
 */
export class JsonLinesWriter implements SampleWriter {
  head(): string {
    return "";
  }

  series(
    { counter, tags, unit, kind }: FileSeries,
    { timeMs, value }: { readonly timeMs: Float64Array; readonly value: Float64Array },
  ): string {
    const series = JSON.stringify({ counter, tags, unit, kind }).slice(0, -1);
    let text = "";
    for (let from = 0; from < timeMs.length; from += samplesPerLine) {
      const times = Array.from(timeMs.subarray(from, from + samplesPerLine));
      const values = Array.from(value.subarray(from, from + samplesPerLine), (v) =>
        Number.isFinite(v) ? numberText(v) : `"${numberText(v)}"`,
      );
      text += `${series},"times":[${times.join()}],"values":[${values.join()}]}\n`;
    }
    return text;
  }

  end(): string {
    return "";
  }
}

export class JsonLinesReader implements SampleReader {
  readonly #take: TakeSample;
  readonly #series = new Map<string, FileSeries>();
  #line = 0;

  constructor(take: TakeSample) {
    this.#take = take;
  }

  line(text: string): void {
    this.#line++;
    if (text.trim() === "") return;
    let found: Partial<FileSeries> & { times?: unknown; values?: unknown };
    try {
      found = JSON.parse(text);
    } catch (error) {
      throw new TextError(`this is not JSON (${(error as Error).message})`, this.#line);
    }
    if (typeof found !== "object" || found === null) throw new TextError("this is not a JSON object", this.#line);
    const { counter, unit, kind, tags, times, values } = found;
    if (typeof counter !== "string" || counter === "" || typeof unit !== "string")
      throw new TextError('"counter" and "unit" must be texts', this.#line);
    if (!kind || !counterKinds.includes(kind))
      throw new TextError(`"kind" must be one of ${counterKinds.join(", ")}`, this.#line);
    if (!Array.isArray(times) || !Array.isArray(values) || times.length !== values.length)
      throw new TextError('"times" and "values" must be lists of the same length', this.#line);
    const key = JSON.stringify([counter, unit, kind, tags]);
    let series = this.#series.get(key);
    if (!series)
      this.#series.set(key, (series = { counter, unit, kind, tags: parseTags(JSON.stringify(tags), this.#line) }));
    for (const [i, time] of times.entries()) {
      const value: unknown = values[i];
      const v = typeof value === "number" ? value : typeof value === "string" ? parseNumber(value) : undefined;
      if (typeof time !== "number") throw new TextError(`times[${i}] is not a number of ms`, this.#line);
      if (v === undefined) throw new TextError(`values[${i}] is not a number`, this.#line);
      this.#take(series, time, v);
    }
  }

  end(): void {}
}
