import { usualDays } from "../../core/baseline/usual-range.ts";
import type { Logger } from "pino";
import type { KeptPast } from "../reading/kept-past.ts";
import type { Series } from "../store/series-registry.ts";
import type { Store } from "../store/store.ts";
import { atOnce } from "../work/at-once.ts";
import { type Lines, linesOf } from "./read-lines.ts";

const hourMs = 3_600_000;
/** Spans of the last days are asked about mostly: so much more than eight weeks is kept. */
const keptHours = (usualDays + 9) * 24;
/** What is compared ends most of a day before its span: it need not be read anew more often than so. */
const renewEveryMs = 6 * hourMs;
/** What came late is read again up to so far back. */
const renewedHours = 48;
const firstAfterMs = 60_000;
/** Some 6 KB a line: of houses with more lines it is read for each question. */
const mostKept = 12_000;
const linesAtOnce = 160;

interface KeptLine {
  readonly counter: string;
  readonly values: Float32Array;
}

/**
 * Hourly means of all lines over eight weeks, kept in memory so that a question about a span need not read them: made
 * ahead, and renewed.
 */
export class HourlyPast implements KeptPast {
  readonly #store: Store;
  readonly #log: Logger;
  readonly #lists: () => Iterable<readonly Series[]>;
  #lines = new Map<number, KeptLine>();
  readonly #units = new Map<string, string>();
  /** They are known before this, an hour's beginning; 0 where nothing is. */
  #untilMs = 0;
  #renewing: Promise<void> | undefined;
  #timer: NodeJS.Timeout | undefined;
  #closed = false;

  /** `lists` gives the series that are compared, in lists of one counter. */
  constructor(store: Store, log: Logger, lists: () => Iterable<readonly Series[]>) {
    this.#store = store;
    this.#log = log;
    this.#lists = lists;
  }

  /** Makes them ahead and keeps them up to date. */
  start(afterMs = firstAfterMs): void {
    this.#timer = setTimeout(() => void this.#look(), afterMs);
    this.#timer.unref();
  }

  /** Reads what is missing or old; `progress` hears the share that is done. Throws CancelledError. */
  async renew(progress: (share: number) => void = () => {}, signal?: AbortSignal): Promise<void> {
    if (this.#store.series.size > mostKept || this.#store.nowMs() - this.#untilMs < renewEveryMs + hourMs) return;
    this.#renewing ??= this.#renew(progress, signal).finally(() => (this.#renewing = undefined));
    await this.#renewing;
  }

  /** The lines of a window of whole hours; undefined where it reaches beyond what is kept. A line that is new has no past. */
  of(lists: readonly (readonly Series[])[], fromMs: number, toMs: number): readonly Lines[] | undefined {
    const within = this.#within(fromMs, toMs);
    if (!within) return undefined;
    const [begin, end] = within;
    return lists.map((list) => {
      const steps = end - begin;
      const values = new Float64Array(list.length * steps).fill(Number.NaN);
      list.forEach(({ id }, k) => {
        const kept = this.#lines.get(id);
        if (kept) values.set(kept.values.subarray(begin, end), k * steps);
      });
      return { values, unit: this.#units.get(list[0]?.counter ?? "") ?? "1", stepMs: hourMs, fromMs };
    });
  }

  hours(ids: readonly number[], fromMs: number, toMs: number): readonly Float32Array[] | undefined {
    const within = this.#within(fromMs, toMs);
    if (!within) return undefined;
    const found = ids.map((id) => this.#lines.get(id)?.values.subarray(...within));
    return found.includes(undefined) ? undefined : (found as Float32Array[]);
  }

  /** The places of a window of whole hours among what is kept; undefined where it reaches beyond. */
  #within(fromMs: number, toMs: number): readonly [begin: number, end: number] | undefined {
    const firstMs = this.#untilMs - keptHours * hourMs;
    if (this.#untilMs === 0 || fromMs < firstMs || toMs > this.#untilMs) return undefined;
    return [(fromMs - firstMs) / hourMs, (toMs - firstMs) / hourMs];
  }

  async close(): Promise<void> {
    this.#closed = true;
    clearTimeout(this.#timer);
    await this.#renewing?.catch(() => {});
  }

  async #look(): Promise<void> {
    if (this.#closed) return;
    try {
      await this.renew();
    } catch (error) {
      this.#log.warn({ err: error }, "what is usual could not be read ahead");
    }
    if (!this.#closed) this.start(this.#untilMs === 0 ? firstAfterMs * 10 : hourMs);
  }

  async #renew(progress: (share: number) => void, signal?: AbortSignal): Promise<void> {
    const untilMs = Math.floor(this.#store.nowMs() / hourMs) * hourMs;
    const firstMs = untilMs - keptHours * hourMs;
    const known = this.#lines;
    const shift = (untilMs - this.#untilMs) / hourMs;
    const lines = new Map<number, KeptLine>();
    const batches = batchesOf(this.#lists());
    let done = 0;
    await atOnce(batches, async (lists) => {
      if (this.#closed) return;
      const isNew = lists.some((list) => list.some(({ id }) => !known.has(id)));
      const hours = isNew || shift + renewedHours > keptHours ? keptHours : shift + renewedHours;
      const read = await linesOf(this.#store, lists, { from: untilMs - hours * hourMs, to: untilMs }, hourMs, signal);
      lists.forEach((list, i) => {
        const { values, unit, fromMs } = read[i] as Lines;
        const steps = values.length / list.length;
        this.#units.set(list[0]?.counter ?? "", unit);
        list.forEach(({ id, counter }, k) => {
          const kept = new Float32Array(keptHours).fill(Number.NaN);
          const before = known.get(id)?.values;
          if (before && hours < keptHours) kept.set(before.subarray(shift), 0);
          kept.set(values.subarray(k * steps, (k + 1) * steps), Math.max(0, Math.round((fromMs - firstMs) / hourMs)));
          lines.set(id, { counter, values: kept });
        });
      });
      progress(++done / batches.length);
    });
    if (this.#closed) return;
    this.#lines = lines;
    this.#untilMs = untilMs;
  }
}

/** Lists that are read in one question. */
export function batchesOf(lists: Iterable<readonly Series[]>): readonly (readonly (readonly Series[])[])[] {
  const batches: (readonly Series[])[][] = [];
  let batch: (readonly Series[])[] = [];
  let lines = 0;
  for (const list of lists) {
    if (lines > 0 && lines + list.length > linesAtOnce) {
      batches.push(batch);
      [batch, lines] = [[], 0];
    }
    batch.push(list);
    lines += list.length;
  }
  if (batch.length > 0) batches.push(batch);
  return batches;
}
