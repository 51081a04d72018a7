import { numberText, parseNumber } from "../../text/number-text.ts";
import type { FileSeries } from "../../pages/file-series.ts";
import { TextError } from "../../pages/text-error.ts";
import { setTag } from "../../counters/set-tag.ts";
import { type CounterKind, counterKinds } from "../../counters/counter.ts";
import type { SampleReader, SampleWriter, TakeSample } from "./sample-format.ts";

// OpenMetrics 1.0 text. Its names have no dots, so the counter's own name, unit and kind stand in the family's HELP.

const typeOf: Readonly<Record<CounterKind, string>> = {
  total: "counter",
  level: "gauge",
  state: "gauge",
  distribution: "unknown",
};
const described = /^counter (\S+), unit (\S*), kind (\w+)$/;

export class OpenMetricsWriter implements SampleWriter {
  #counter: string | undefined;
  #family = "";
  readonly #families = new Set<string>();

  head(): string {
    return "";
  }

  series(
    { counter, tags, unit, kind }: FileSeries,
    { timeMs, value }: { readonly timeMs: Float64Array; readonly value: Float64Array },
  ): string {
    let text = "";
    if (counter !== this.#counter) {
      this.#counter = counter;
      this.#family = this.#newFamily(counter);
      text += `# TYPE ${this.#family} ${typeOf[kind]}\n# HELP ${this.#family} ${escaped(`counter ${counter}, unit ${unit}, kind ${kind}`)}\n`;
    }
    const labels = Object.entries(tags).map(([tag, v]) => `${labelName(tag)}="${escaped(v)}"`);
    const name = `${this.#family}${kind === "total" ? "_total" : ""}${labels.length > 0 ? `{${labels.join(",")}}` : ""}`;
    for (let i = 0; i < timeMs.length; i++)
      text += `${name} ${numberText(value[i] as number, "Inf")} ${secondsText(timeMs[i] as number)}\n`;
    return text;
  }

  end(): string {
    return "# EOF\n";
  }

  /** Two counters may become the same name without their dots; the second gets a number. */
  #newFamily(counter: string): string {
    const plain = counter
      .replace(/[^a-zA-Z0-9_:]/g, "_")
      .replace(/^(\d)/, "_$1")
      .replace(/_total$/, "_totals");
    let family = plain;
    for (let n = 2; this.#families.has(family); n++) family = `${plain}_${n}`;
    this.#families.add(family);
    return family;
  }
}

/** Tags are names already, by and large; what a label may not have becomes an underscore and its code. */
function labelName(tag: string): string {
  return tag.replace(/[^a-zA-Z0-9_]/g, (c) => `_u${c.charCodeAt(0).toString(16)}_`).replace(/^(\d)/, "_u_$1");
}

function tagName(label: string): string {
  return label
    .replace(/^_u_(?=\d)/, "")
    .replace(/_u([0-9a-f]{1,4})_/g, (_, code: string) => String.fromCharCode(Number.parseInt(code, 16)));
}

function escaped(text: string): string {
  return text.replaceAll("\\", "\\\\").replaceAll("\n", "\\n").replaceAll('"', '\\"');
}

function secondsText(ms: number): string {
  const seconds = Math.floor(ms / 1000);
  const rest = Math.round(ms - seconds * 1000);
  return rest === 0 ? String(seconds) : `${seconds}.${String(rest).padStart(3, "0")}`;
}

interface Family {
  type: string;
  described: Omit<FileSeries, "tags"> | undefined;
}

export class OpenMetricsReader implements SampleReader {
  readonly #take: TakeSample;
  readonly #families = new Map<string, Family>();
  readonly #series = new Map<string, FileSeries>();
  #line = 0;
  #ended = false;

  constructor(take: TakeSample) {
    this.#take = take;
  }

  line(text: string): void {
    this.#line++;
    if (this.#ended) throw new TextError("text follows # EOF", this.#line);
    if (text === "# EOF") this.#ended = true;
    else if (text.startsWith("# ")) this.#describe(text);
    else this.#sample(text);
  }

  end(): void {
    if (!this.#ended) throw new TextError("the text ends without # EOF: it was cut off", this.#line + 1);
  }

  #describe(text: string): void {
    const parts = /^# (TYPE|HELP|UNIT) (\S+)(?: (.*))?$/.exec(text);
    if (!parts) throw new TextError(`"${text.slice(0, 60)}" is none of # TYPE, # HELP, # UNIT, # EOF`, this.#line, 1);
    const [, what, name, rest = ""] = parts as unknown as [string, string, string, string?];
    const family = this.#families.get(name) ?? { type: "unknown", described: undefined };
    this.#families.set(name, family);
    if (what === "TYPE") family.type = rest;
    if (what === "HELP") {
      const found = described.exec(unescaped(rest));
      if (found && counterKinds.includes(found[3] as CounterKind))
        family.described = { counter: found[1] as string, unit: found[2] as string, kind: found[3] as CounterKind };
    }
  }

  #sample(text: string): void {
    const name = /^[a-zA-Z_:][a-zA-Z0-9_:]*/.exec(text)?.[0];
    if (name === undefined) throw new TextError("a sample begins with a name", this.#line, 1);
    const close = text[name.length] === "{" ? closingBrace(text, name.length + 1) : name.length - 1;
    if (close < 0) throw new TextError("the labels have no closing brace", this.#line, name.length + 1);
    const key = text.slice(0, close + 1);
    let series = this.#series.get(key);
    if (!series) this.#series.set(key, (series = this.#seriesOf(name, text.slice(name.length + 1, close))));
    const [value, time] = text.slice(close + 2).split(" ", 2);
    const v = parseNumber(value ?? "");
    if (text[close + 1] !== " " || v === undefined)
      throw new TextError(`"${value ?? ""}" is not a number`, this.#line, close + 3);
    const seconds = parseNumber(time ?? "");
    if (seconds === undefined || !Number.isFinite(seconds))
      throw new TextError(
        time === undefined
          ? "a sample without a time cannot be imported"
          : `timestamp "${time}" is not a number of seconds`,
        this.#line,
        close + 4 + (value as string).length,
      );
    this.#take(series, Math.round(seconds * 1000), v);
  }

  #seriesOf(name: string, labels: string): FileSeries {
    const tags: Record<string, string> = {};
    const label = /\s*([a-zA-Z_][a-zA-Z0-9_]*)="((?:[^"\\]|\\.)*)"\s*(,|$)/y;
    while (label.lastIndex < labels.length) {
      const at = label.lastIndex;
      const found = label.exec(labels);
      if (!found)
        throw new TextError(`"${labels.slice(at, at + 30)}" is not a label`, this.#line, name.length + 2 + at);
      setTag(tags, tagName(found[1] as string), unescaped(found[2] as string));
    }
    const base = name.replace(/_total$/, "");
    const family = this.#families.get(base) ?? this.#families.get(name);
    const kind: CounterKind = family?.type === "counter" || (!family && name.endsWith("_total")) ? "total" : "level";
    return { ...(family?.described ?? { counter: base, unit: "1", kind }), tags };
  }
}

function closingBrace(text: string, from: number): number {
  let quoted = false;
  for (let i = from; i < text.length; i++) {
    const c = text[i];
    if (c === "\\" && quoted) i++;
    else if (c === '"') quoted = !quoted;
    else if (c === "}" && !quoted) return i;
  }
  return -1;
}

function unescaped(text: string): string {
  return text.replace(/\\(.)/g, (_, c: string) => (c === "n" ? "\n" : c));
}
