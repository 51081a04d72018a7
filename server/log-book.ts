import type { LogEntryView } from "../core/api/condition.ts";

/** Different lines that are kept; the one said longest ago gives way. */
const mostEntries = 200;
const warning = 40;
const error = 50;

interface LogLine {
  readonly level: number;
  readonly time: number;
  readonly msg?: string;
  readonly err?: { readonly message?: string; readonly code?: string };
  readonly source?: string;
}

/**
 * What the log has said since the start, warnings and worse, for a page that tells it: a line that only a terminal sees
 * is seen by nobody. Lines that say
 * the same but for their numbers are one entry that counts, in its newest words. It is written to as a stream beside
 * the log's own (pino's multistream), a line of JSON at a time.
 */
export class LogBook {
  readonly #entries = new Map<string, LogEntryView>();

  write(text: string): void {
    const line = lineOf(text);
    if (!line || line.level < warning) return;
    const words = [line.msg, line.source && `(${line.source})`].filter(Boolean).join(" ") || "something failed";
    const why = line.err?.message ?? "";
    // A duration or an attempt's number makes no other line of it.
    const key = [withoutNumbers(line.msg ?? ""), line.source ?? "", withoutNumbers(why)].join("\n");
    const before = this.#entries.get(key);
    this.#entries.delete(key); // put again: the map is in order of what was said last
    this.#entries.set(key, {
      level: line.level >= error ? "error" : "warning",
      words,
      why,
      firstMs: before?.firstMs ?? line.time,
      lastMs: line.time,
      times: (before?.times ?? 0) + 1,
    });
    if (this.#entries.size > mostEntries) this.#entries.delete(this.#entries.keys().next().value as string);
  }

  /** What was said last comes first. */
  entries(): readonly LogEntryView[] {
    return [...this.#entries.values()].reverse();
  }
}

const withoutNumbers = (text: string): string => text.replace(/(?<!\w)\d+(\.\d+)?/g, "0");

function lineOf(text: string): LogLine | undefined {
  try {
    return JSON.parse(text) as LogLine;
  } catch {
    return undefined;
  }
}
